import { hardwareEncoders } from '@inkavo/media/export/hardwareEncoders';
import { startServer } from './app';
import { configFromEnv } from './config';

/** A stop takes no longer than this, whatever is stuck: threads and codec processes end with this process. */
const STOP_MS = 8000;

/** Hardware encoders are looked for so long after the start. */
const UNITS_AFTER_MS = 8000;

// Nothing may leave a rejection unhandled; should something, the server goes on and says so.
process.on('unhandledRejection', (reason) => console.error('A rejection was not handled:', reason));

startServer(configFromEnv())
  .then((running) => {
    console.log(`Inkavo is ready: ${running.address}`);
    // Tried before anybody sets up an export, but not while the first pages and pictures are asked for.
    setTimeout(() => void hardwareEncoders(), UNITS_AFTER_MS).unref();
    let closing = false;
    const stop = () => {
      if (closing) return;
      closing = true;
      // An exit waits for threads; one that is stuck in the system would hold it up for ever.
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
