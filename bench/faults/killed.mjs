// How each is killed with -9 and comes back.
import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';

export const victims = {
  page: {
    kill: ({ page }) => page.kill(),
    // By whoever was at work in it.
    back: async () => undefined,
  },
  server: {
    kill: ({ studio }) => studio.end('server', 'SIGKILL'),
    back: ({ studio }) => studio.start('server', 'main.js', { EUPHONOS_WORK: 'none' }),
  },
  worker: {
    kill: ({ studio }) => studio.end('worker', 'SIGKILL'),
    back: ({ studio }) => studio.start('worker', 'work.js', { EUPHONOS_WORKER_NAME: 'mill' }),
  },
  database: {
    async kill({ studio }) {
      const pid = readFileSync(join(studio.databaseFolder, 'postmaster.pid'), 'utf8').split('\n')[0];
      // Those that it started first: one that outlives it would go on by itself for a moment.
      const { stdout } = spawnSync('pgrep', ['-P', pid], { encoding: 'utf8' });
      spawnSync('kill', ['-9', pid, ...stdout.trim().split('\n')]);
      await studio.databaseEnded;
    },
    back: ({ studio }) => studio.startDatabase(),
  },
};
