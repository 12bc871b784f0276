import { createApp } from './app.js';
import { readConfig } from './config.js';
import { log } from './log.js';
import { InvitationsService } from './people/invitations.service.js';
import { isDatabaseDown } from './problems/problem.filter.js';

// The queue ends its messages without waiting for it (pg-boss 10): while the database is away nobody hears that this failed. It decides
// nothing, the table `job` does; everything else that nobody has heard ends the process, as usual.
process.on('unhandledRejection', (error) => {
  if (!isDatabaseDown(error)) throw error;
  log.warn({ err: error }, 'the database is away');
});

const config = readConfig(process.env);
// Started by somebody who is gone, however that came: end in order, rather than hold the port for nobody.
process.once('disconnect', () => process.kill(process.pid, 'SIGTERM'));
try {
  const app = await createApp(config);
  // A large recording may take its time to come in; a connection that brings nothing at all is cut.
  const server = await app.listen(config.port, config.listen);
  (server as { requestTimeout: number }).requestTimeout = 0;
  process.stdout.write(`Euphonos is at ${config.publicUrl}\n`);
  const first = config.shared ? await app.get(InvitationsService).first() : null;
  if (first)
    process.stdout.write(`Nobody has an account yet. The first owner makes theirs here, until ${first.expiresAt}: ${first.link}\n`);
  const lost = process.env['EUPHONOS_RENEW'];
  if (config.shared && lost) {
    const { link, expiresAt } = await app.get(InvitationsService).renewByAddress(lost);
    process.stdout.write(`Another password for ${lost}, until ${expiresAt}: ${link}\n`);
  }
  process.send?.('ready');
} catch (error) {
  const taken = (error as NodeJS.ErrnoException).code === 'EADDRINUSE';
  if (!taken) log.fatal({ err: error }, 'could not start');
  process.stderr.write(
    taken
      ? `Port ${config.port} is taken by another program. End that one, or choose another port: EUPHONOS_PORT=${config.port + 10} npm start\n`
      : `Euphonos could not start: ${(error as Error).message}\n`,
  );
  process.exit(1);
}
