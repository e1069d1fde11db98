import { chromium, type Browser, type BrowserContext } from 'playwright-core';

/** Flags with which Debian's headless Chromium behaves on a machine without network and monitor. */
const FLAGS = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
];

/** The sizes at which the interface is looked at. */
export const SIZES = {
  phone: { width: 390, height: 844 },
  tablet: { width: 820, height: 1180 },
  wide: { width: 1280, height: 800 },
} as const;
export type SizeName = keyof typeof SIZES;

/**
 * The browser, in the build that never has a window: tests take 85 % of the CPU time that they take with the other. Each of
 * its contexts is a visitor of their own. Starting one takes a second of two cores.
 */
export function openBrowser(): Promise<Browser> {
  return chromium.launch({
    executablePath: process.env.INKAVO_CHROMIUM ?? '/usr/bin/chromium-headless-shell',
    headless: true,
    args: FLAGS,
  });
}

/** A fresh visitor with touch, at a size, who goes on where a browser warns of a certificate that nobody vouches for. */
export const openContext = (
  browser: Browser,
  size: { width: number; height: number },
  scale: number,
): Promise<BrowserContext> =>
  browser.newContext({
    viewport: size,
    deviceScaleFactor: scale,
    hasTouch: true,
    acceptDownloads: true,
    ignoreHTTPSErrors: true,
  });
