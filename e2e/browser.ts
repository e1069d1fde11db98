import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type BrowserContext } from 'playwright-core';

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

/** A fresh browser with touch, at a size. */
export async function openBrowser(
  size: { width: number; height: number },
  { scale = 1, touch = true } = {},
): Promise<BrowserContext> {
  const profile = mkdtempSync(join(tmpdir(), 'inkavo-browser-'));
  return chromium.launchPersistentContext(profile, {
    executablePath: process.env.INKAVO_CHROMIUM ?? '/usr/bin/chromium',
    headless: true,
    args: FLAGS,
    viewport: size,
    deviceScaleFactor: scale,
    hasTouch: touch,
    acceptDownloads: true,
  });
}
