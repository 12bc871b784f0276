import 'reflect-metadata';
import { NestFactory } from '@nestjs/core';
import { DataSource } from 'typeorm';
import { readConfig } from './config.js';
import { dataSourceOptions } from './database/data-source.js';
import { log } from './log.js';
import { isDatabaseDown } from './problems/problem.filter.js';
import { WorkModule } from './work.module.js';

// A process that only works, on any machine that reaches the database and the store: `npm run worker`.
process.on('unhandledRejection', (error) => {
  if (!isDatabaseDown(error)) throw error;
  log.warn({ err: error }, 'the database is away');
});
process.once('disconnect', () => process.kill(process.pid, 'SIGTERM'));

try {
  const config = { ...readConfig(process.env), serves: false, works: true };
  // What it does not know it must not write, nor look for.
  const database = await new DataSource(dataSourceOptions(config.databaseUrl, false)).initialize();
  const isEarlier = await database.showMigrations().finally(() => database.destroy());
  if (isEarlier)
    throw new Error('The database is of an earlier version. Start the server of this version first: it brings the database up.');
  const app = await NestFactory.createApplicationContext(WorkModule.with(config), { logger: false, abortOnError: false });
  app.enableShutdownHooks();
  process.send?.('ready');
  process.stdout.write(`${config.workerName} works. Ctrl-C ends it; what it is at goes to another one.\n`);
} catch (error) {
  process.stderr.write(`The worker could not start: ${(error as Error).message}\n`);
  process.exit(1);
}
