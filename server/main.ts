import { hardwareEncoders } from '@inkavo/media/export/hardwareEncoders';
import { startServer } from './app';
import { configFromEnv } from './config';

/** Maximum duration of a stop: threads and codec processes end with this process. */
const STOP_MS = 8000;

/** Delay after the start before hardware encoders are detected. */
const UNITS_AFTER_MS = 8000;

// No rejection should go unhandled; if one does, the server logs it and continues.
process.on('unhandledRejection', (reason) => console.error('A rejection was not handled:', reason));

startServer(configFromEnv())
  .then((running) => {
    console.log(`Inkavo is ready: ${running.address}`);
    // Before anybody configures an export, but not while the first pages and pictures are requested.
    setTimeout(() => void hardwareEncoders(), UNITS_AFTER_MS).unref();
    let closing = false;
    const stop = () => {
      if (closing) return;
      closing = true;
      // An exit waits for threads; one blocked in a system call would delay it for ever.
      setTimeout(() => process.kill(process.pid, 'SIGKILL'), STOP_MS);
      running.close().then(
        () => process.exit(0),
        (error) => {
          console.error(error);
          process.exit(1);
        },
      );
    };
    process.on('SIGINT', stop);
    process.on('SIGTERM', stop);
  })
  .catch((error: NodeJS.ErrnoException) => {
    console.error(error.code === 'EADDRINUSE' ? 'This port is in use. Set INKAVO_PORT to another one.' : error.message);
    process.exit(1);
  });
