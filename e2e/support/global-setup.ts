import type { FullConfig } from '@playwright/test';
import { ProductServer } from './server.ts';

/** A server for each worker, so that none sees what another does; tests that end theirs have their own. */
export default async function setup({ workers }: FullConfig): Promise<() => Promise<void>> {
  const servers = await Promise.all(Array.from({ length: workers }, () => ProductServer.create()));
  process.env['EUPHONOS_E2E_ADDRESSES'] = servers.map(({ address }) => address).join();
  return async () => void (await Promise.all(servers.map((server) => server.kill())));
}
