import { chromium, type Browser, type BrowserContext } from 'playwright-core';

/** Flags for Debian's headless Chromium on a machine without network and monitor. */
const FLAGS = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
];

/** Viewport sizes of the tests. */
export const SIZES = {
  phone: { width: 390, height: 844 },
  tablet: { width: 820, height: 1180 },
  wide: { width: 1280, height: 800 },
} as const;
export type SizeName = keyof typeof SIZES;

/**
 * The browser, in the headless-only build: tests take 85 % of the CPU time that they take with the other. Each of its
 * contexts is a separate visitor. Starting one takes a second on two cores.
 */
export function openBrowser(): Promise<Browser> {
  return chromium.launch({
    executablePath: process.env.INKAVO_CHROMIUM ?? '/usr/bin/chromium-headless-shell',
    headless: true,
    args: FLAGS,
  });
}

/** A new visitor with touch, at a size, who accepts self-signed certificates. */
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
