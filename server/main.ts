import { startServer } from './app';
import { configFromEnv } from './config';

startServer(configFromEnv())
  .then((running) => {
    console.log(`Inkavo is ready: ${running.address}`);
    let closing = false;
    const stop = () => {
      if (closing) return;
      closing = true;
      void running.close().then(() => process.exit(0));
    };
    process.on('SIGINT', stop);
    process.on('SIGTERM', stop);
  })
  .catch((error: NodeJS.ErrnoException) => {
    console.error(error.code === 'EADDRINUSE' ? 'This port is in use. Set INKAVO_PORT to another one.' : error.message);
    process.exit(1);
  });
