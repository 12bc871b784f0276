import { createApp } from './app.js';
import { readConfig } from './config.js';
import { log } from './log.js';

const config = readConfig(process.env);
try {
  const app = await createApp(config);
  // A large recording may take its time to come in; a connection that brings nothing at all is cut.
  const server = await app.listen(config.port, '127.0.0.1');
  (server as { requestTimeout: number }).requestTimeout = 0;
  process.send?.('ready');
  process.stdout.write(`Euphonos is at http://127.0.0.1:${config.port}\n`);
} catch (error) {
  log.fatal({ err: error }, 'could not start');
  process.stderr.write(`Euphonos could not start: ${(error as Error).message}\n`);
  process.exit(1);
}
