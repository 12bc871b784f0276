import { ProductServer } from './server.ts';

/** One server for all tests; those that end it have their own. */
export default async function setup(): Promise<() => Promise<void>> {
  const server = await ProductServer.create();
  process.env['EUPHONOS_E2E_ADDRESS'] = server.address;
  return () => server.kill();
}
