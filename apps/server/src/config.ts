import { hostname } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { PART_SECONDS } from '@euphonos/engine';
import { answeredHosts } from './door.js';
import type { StoreSettings } from './media-store/media-store.js';

/** What the server is told from outside; everything has a default but the database. */
export interface ServerConfig {
  readonly port: number;
  /** Hosts that are answered, as browsers name them. */
  readonly hosts: ReadonlySet<string>;
  /** Address of this machine to listen on; anything but loopback for a shared installation alone. */
  readonly listen: string;
  /** Several people share it, each with an account. */
  readonly shared: boolean;
  /** Where people open it, without a slash at its end. */
  readonly publicUrl: string;
  /** Who must set up a second step before anything else. */
  readonly secondStep: 'nobody' | 'owners' | 'everybody';
  /** It is reached over https: cookies travel over that alone. */
  readonly secureCookies: boolean;
  /** Proxies that are believed whom they answer for: addresses, parted by commas, as express takes them. */
  readonly proxies: string;
  /** postgres://… */
  readonly databaseUrl: string;
  /** The content-addressed store. */
  readonly store: StoreSettings;
  /** So much of the store's disk is to stay free. */
  readonly keepFreeBytes: number;
  /** Folder of takes while they are recorded. */
  readonly takesFolder: string;
  /** Folder of files on their way here, on the disk of the store. */
  readonly uploadsFolder: string;
  /** Folder with the folders that batches watch. */
  readonly inboxFolder: string;
  /** What the last backup left, as a file. */
  readonly backupNote: string;
  /** Figures for whoever watches are given to other machines too. */
  readonly metricsForAll: boolean;
  /** How this process is called among those that work; of its machine alone when it is not told. */
  readonly workerName: string;
  /** It answers pages; else it works alone. */
  readonly serves: boolean;
  /** This process works; else it only answers, and others with the same database and store work. */
  readonly works: boolean;
  /** Length of the parts of long renders, s: another one gives other bits at the joints. */
  readonly partSeconds: number;
  /** Folder with the built page; left out, only the API is served. */
  readonly pageFolder: string | undefined;
  /** Folder with the recordings of the demo; left out, no demo is made. */
  readonly demoFolder: string | undefined;
}

/** A file of the project, from these modules and from the bundle that is made of them alike. */
export const fromRoot = (path: string): string => fileURLToPath(new URL(`../../../${path}`, import.meta.url));

const LOOPBACK = /^(127\.\d+\.\d+\.\d+|::1|localhost)$/;

/** @throws {Error} with what to set instead */
function publicAddress(given: string): URL {
  const url = URL.canParse(given) ? new URL(given) : null;
  if (!url || !/^https?:$/.test(url.protocol) || url.pathname !== '/')
    throw new Error(`EUPHONOS_PUBLIC is "${given.slice(0, 200)}"; it is the address that people open, as https://studio.example.`);
  return url;
}

/** Left free on the disk, when nothing is said. */
const KEEP_FREE_GB = 4;
/** What is kept at hand of an object store, when nothing is said. */
const CACHE_GB = 50;

/** @throws {Error} with what to set instead */
function gigabytes(name: string, env: NodeJS.ProcessEnv, usual: number): number {
  const given = Number(env[name] ?? usual);
  if (!(given >= 0)) throw new Error(`${name} is "${env[name]}"; it is a number of GB, as ${usual}.`);
  return given * 1e9;
}

/** The store that the environment names, with `folder` as it is or as what is at hand. @throws {Error} with what to set instead */
export function storeSettings(folder: string, env: NodeJS.ProcessEnv): StoreSettings {
  const given = env['EUPHONOS_STORE'];
  if (!given) return { folder };
  const [, name, prefix = ''] = /^s3:\/\/([a-z0-9][a-z0-9.-]{1,61}[a-z0-9])(?:\/(.*))?$/.exec(given) ?? [];
  if (!name)
    throw new Error(
      `EUPHONOS_STORE is "${given.slice(0, 200)}"; it is a bucket and where in it, as s3://recordings or s3://recordings/euphonos.`,
    );
  const endpoint = env['EUPHONOS_S3_ENDPOINT'];
  if (endpoint !== undefined && !(URL.canParse(endpoint) && /^https?:$/.test(new URL(endpoint).protocol)))
    throw new Error(`EUPHONOS_S3_ENDPOINT is "${endpoint.slice(0, 200)}"; it is the address of the service, as https://objects.example.`);
  return {
    folder,
    bucket: {
      name,
      prefix: prefix === '' || prefix.endsWith('/') ? prefix : `${prefix}/`,
      ...(endpoint === undefined ? {} : { endpoint }),
      region: env['AWS_REGION'] ?? 'us-east-1',
      cacheBytes: gigabytes('EUPHONOS_CACHE_GB', env, CACHE_GB),
    },
  };
}

/** @throws {Error} with what to set instead */
function secondStepOf(env: NodeJS.ProcessEnv): ServerConfig['secondStep'] {
  const given = env['EUPHONOS_SECOND_STEP'] ?? 'nobody';
  if (given === 'nobody' || given === 'owners' || given === 'everybody') return given;
  throw new Error(`EUPHONOS_SECOND_STEP is "${given.slice(0, 200)}"; it is nobody, owners or everybody.`);
}

/** @throws {Error} with what to set instead */
function secondsOfPart(env: NodeJS.ProcessEnv): number {
  const given = Number(env['EUPHONOS_PART_SECONDS'] ?? PART_SECONDS);
  if (!(given >= 1 && given <= 86_400))
    throw new Error(`EUPHONOS_PART_SECONDS is "${env['EUPHONOS_PART_SECONDS']}"; it is 1 to 86400, as ${PART_SECONDS}.`);
  return given;
}

export function readConfig(env: NodeJS.ProcessEnv): ServerConfig {
  const databaseUrl = env['EUPHONOS_DATABASE_URL'];
  if (!databaseUrl) throw new Error('EUPHONOS_DATABASE_URL is not set. Use "npm start", which starts a database and sets it.');
  const port = Number(env['EUPHONOS_PORT'] ?? 4680);
  const shared = env['EUPHONOS_SHARED'] === '1';
  const listen = env['EUPHONOS_LISTEN'] ?? '127.0.0.1';
  if (!shared && !LOOPBACK.test(listen))
    throw new Error(
      `EUPHONOS_LISTEN is ${listen}, but without accounts whoever reaches the port may do everything: it listens on loopback alone. Set EUPHONOS_SHARED=1 to let others in.`,
    );
  const publicUrl = publicAddress(
    env['EUPHONOS_PUBLIC'] ?? `http://${LOOPBACK.test(listen) || listen === '0.0.0.0' ? '127.0.0.1' : listen}:${port}`,
  );
  const media = env['EUPHONOS_MEDIA'] ?? fromRoot('.euphonos/media');
  return {
    port,
    shared,
    listen,
    publicUrl: publicUrl.origin,
    secondStep: secondStepOf(env),
    secureCookies: publicUrl.protocol === 'https:',
    proxies: env['EUPHONOS_PROXIES'] ?? 'loopback',
    hosts: answeredHosts(port, `${env['EUPHONOS_HOSTS'] ?? ''},${publicUrl.host}`),
    databaseUrl,
    store: storeSettings(media, env),
    keepFreeBytes: gigabytes('EUPHONOS_KEEP_FREE_GB', env, KEEP_FREE_GB),
    takesFolder: env['EUPHONOS_TAKES'] ?? join(media, '../takes'),
    uploadsFolder: env['EUPHONOS_UPLOADS'] ?? join(media, '../uploads'),
    backupNote: env['EUPHONOS_BACKUP_NOTE'] ?? join(media, '../last-backup.json'),
    workerName: env['EUPHONOS_WORKER_NAME'] ?? hostname(),
    serves: true,
    works: env['EUPHONOS_WORK'] !== 'none',
    partSeconds: secondsOfPart(env),
    metricsForAll: env['EUPHONOS_METRICS'] === 'all',
    inboxFolder: env['EUPHONOS_INBOX'] ?? fromRoot('.euphonos/inbox'),
    pageFolder: env['EUPHONOS_PAGE'] ?? fromRoot('apps/web/dist'),
    demoFolder: env['EUPHONOS_DEMO'] === 'none' ? undefined : fromRoot('demo'),
  };
}

export const SERVER_CONFIG = Symbol('ServerConfig');
