#!/usr/bin/python3
"""Makes core/fixtures/opencv.json: guided, box, smallest and largest value filters and unsharp masking by OpenCV, for tests
that need no tool.

On Debian: apt-get install python3-opencv; /usr/bin/python3 scripts/filterFixtures.py
"""
import json
import os

import cv2
import numpy as np

rng=np.random.default_rng(7)
w,h=40,28
y,x=np.mgrid[0:h,0:w]
g=(0.3+0.4*(x>18)+0.1*np.sin(y/3.0)+0.03*rng.standard_normal((h,w))).clip(0,1).astype(np.float32)
p=(0.2+0.5*(x>19)+0.05*rng.standard_normal((h,w))).clip(0,1).astype(np.float32)
out={}
r,eps=4,1e-3
q=cv2.ximgproc.guidedFilter(g,p,r,eps)
mn=cv2.erode(p,np.ones((7,7)),borderType=cv2.BORDER_CONSTANT,borderValue=1e9)
mx=cv2.dilate(p,np.ones((7,7)),borderType=cv2.BORDER_CONSTANT,borderValue=-1e9)
# box mean with windows cut off at the edges: sums over counts
k=2*r+1
s=cv2.boxFilter(p.astype(np.float64),-1,(k,k),normalize=False,borderType=cv2.BORDER_CONSTANT)
n=cv2.boxFilter(np.ones_like(p,dtype=np.float64),-1,(k,k),normalize=False,borderType=cv2.BORDER_CONSTANT)
# unsharp masking with windows of three standard deviations whose edge goes on
def unsharp(deviation,amount):
    k=2*int(np.ceil(3*deviation))+1
    d=p.astype(np.float64)
    return d+amount*(d-cv2.GaussianBlur(d,(k,k),deviation,borderType=cv2.BORDER_REPLICATE))
rd=lambda a:[round(float(v),6) for v in a.ravel()]
json.dump({"by":"OpenCV "+cv2.__version__,"width":w,"height":h,"radius":r,"epsilon":eps,"guide":rd(g),"plane":rd(p),"guided":rd(q),"min7":rd(mn),"max7":rd(mx),"mean9":rd(s/n),"sharpened":[{"deviation":dv,"amount":am,"out":rd(unsharp(dv,am))} for dv,am in ((0.6,1.5),(1.0,1.0),(2.5,0.7))]},open(os.path.join(os.path.dirname(os.path.abspath(__file__)), '..', 'core', 'fixtures', 'opencv.json'), 'w'))
