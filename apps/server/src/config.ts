import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { answeredHosts } from './door.js';

/** What the server is told from outside; everything has a default but the database. */
export interface ServerConfig {
  readonly port: number;
  /** Hosts that are answered, as browsers name them. */
  readonly hosts: ReadonlySet<string>;
  /** postgres://… */
  readonly databaseUrl: string;
  /** Folder of the content-addressed store. */
  readonly mediaFolder: string;
  /** Folder of takes while they are recorded. */
  readonly takesFolder: string;
  /** Folder with the folders that batches watch. */
  readonly inboxFolder: string;
  /** What the last backup left, as a file. */
  readonly backupNote: string;
  /** Figures for whoever watches are given to other machines too. */
  readonly metricsForAll: boolean;
  /** Folder with the built page; left out, only the API is served. */
  readonly pageFolder: string | undefined;
  /** Folder with the recordings of the demo; left out, no demo is made. */
  readonly demoFolder: string | undefined;
}

const fromRoot = (path: string): string => fileURLToPath(new URL(`../../../${path}`, import.meta.url));

export function readConfig(env: NodeJS.ProcessEnv): ServerConfig {
  const databaseUrl = env['EUPHONOS_DATABASE_URL'];
  if (!databaseUrl) throw new Error('EUPHONOS_DATABASE_URL is not set. Use "npm start", which starts a database and sets it.');
  const port = Number(env['EUPHONOS_PORT'] ?? 4680);
  return {
    port,
    hosts: answeredHosts(port, env['EUPHONOS_HOSTS']),
    databaseUrl,
    mediaFolder: env['EUPHONOS_MEDIA'] ?? fromRoot('.euphonos/media'),
    takesFolder: env['EUPHONOS_TAKES'] ?? join(env['EUPHONOS_MEDIA'] ?? fromRoot('.euphonos/media'), '../takes'),
    backupNote: env['EUPHONOS_BACKUP_NOTE'] ?? join(env['EUPHONOS_MEDIA'] ?? fromRoot('.euphonos/media'), '../last-backup.json'),
    metricsForAll: env['EUPHONOS_METRICS'] === 'all',
    inboxFolder: env['EUPHONOS_INBOX'] ?? fromRoot('.euphonos/inbox'),
    pageFolder: env['EUPHONOS_PAGE'] ?? fromRoot('apps/web/dist'),
    demoFolder: env['EUPHONOS_DEMO'] === 'none' ? undefined : fromRoot('demo'),
  };
}

export const SERVER_CONFIG = Symbol('ServerConfig');
