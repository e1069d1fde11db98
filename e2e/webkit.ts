import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, readdirSync } from 'node:fs';
import { createServer, type AddressInfo } from 'node:net';
import { join } from 'node:path';
import { until } from '@inkavo/server/testServer';
import { By, Builder, Capabilities, Origin, type WebDriver, type WebElement } from 'selenium-webdriver';

/** The second browser engine: WebKitGTK's own test browser, from Debian, on a virtual screen. */
export interface WebKit {
  driver: WebDriver;
  close(): Promise<void>;
}

const LIBRARIES = '/usr/lib';
/** Path of the browser in Debian; the folder's name contains the machine's architecture. */
function browserPath(): string {
  const [found] = readdirSync(LIBRARIES)
    .map((folder) => join(LIBRARIES, folder, 'webkit2gtk-4.1/MiniBrowser'))
    .filter((path) => existsSync(path));
  if (!found) throw new Error('WebKitGTK is not installed (Debian: webkit2gtk-driver).');
  return found;
}

async function freePort(): Promise<number> {
  const server = createServer().listen(0, '127.0.0.1');
  await once(server, 'listening');
  const { port } = server.address() as AddressInfo;
  server.close();
  return port;
}

/** A virtual screen; resolves with its name once it is available. */
async function openScreen(): Promise<{ screen: ChildProcess; name: string }> {
  const args = ['-displayfd', '3', '-screen', '0', '1400x1400x24', '-nolisten', 'tcp'];
  const screen = spawn('Xvfb', args, { stdio: ['ignore', 'ignore', 'ignore', 'pipe'] });
  const [number] = (await once(screen.stdio[3]!, 'data')) as [Buffer];
  return { screen, name: `:${number.toString().trim()}` };
}

/** Opens the browser with a window of this size, including its bars. */
export async function openWebKit(size: { width: number; height: number }): Promise<WebKit> {
  const { screen, name } = await openScreen();
  const port = await freePort();
  const service = spawn('WebKitWebDriver', [`--port=${port}`], {
    stdio: 'ignore',
    env: { ...process.env, DISPLAY: name },
  });
  const stop = (): void => [service, screen].forEach((child) => child.kill());
  try {
    // It starts listening after a while.
    await until(
      () => fetch(`http://127.0.0.1:${port}/status`),
      (answer) => answer.ok,
    );
    const driver = await new Builder()
      .usingServer(`http://127.0.0.1:${port}`)
      .withCapabilities(
        new Capabilities({
          browserName: 'MiniBrowser',
          'webkitgtk:browserOptions': { binary: browserPath(), args: ['--automation'] },
        }),
      )
      .build();
    await driver.manage().setTimeouts({ script: 60_000, pageLoad: 60_000, implicit: 20_000 });
    await driver
      .manage()
      .window()
      .setRect({ x: 0, y: 0, ...size });
    return {
      driver,
      async close() {
        await driver.quit().catch(() => undefined);
        stop();
      },
    };
  } catch (error) {
    stop();
    throw error;
  }
}

/** An element by its test id. */
export const byTestId = (driver: WebDriver, id: string): Promise<WebElement> =>
  driver.findElement(By.css(`[data-testid="${id}"]`));

/** A button by its text or label. */
export const buttonNamed = (driver: WebDriver, name: string): Promise<WebElement> =>
  driver.findElement(
    By.xpath(`//*[@role="button" or self::button][@aria-label="${name}" or normalize-space(.)="${name}"]`),
  );

/** Drags with a pointer from the centre of an element, with steps on the way. */
export async function drag(driver: WebDriver, from: WebElement, dx: number, dy: number): Promise<void> {
  const steps = 8;
  const actions = driver.actions({ async: true }).move({ origin: from, duration: 0 }).press();
  for (let i = 0; i < steps; i += 1)
    actions.move({ origin: Origin.POINTER, x: Math.round(dx / steps), y: Math.round(dy / steps), duration: 20 });
  await actions.release().perform();
}
