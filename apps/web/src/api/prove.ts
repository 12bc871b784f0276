import { request } from './client.js';
import type { ServerProblem } from './problem.js';

type Ask = () => Promise<boolean>;
let ask: Ask = () => Promise.resolve(false);

/** Who asks for the password when it is wanted once more; resolves to false when it is not given. */
export const onProve = (how: Ask): void => void (ask = how);

export const prove = (password: string): Promise<void> => request('POST', 'prove', { password });

/** A change that gives or takes access: where the server wants the password once more it is asked for, and the change is made then. */
export async function grave<Answer>(change: () => Promise<Answer>): Promise<Answer> {
  try {
    return await change();
  } catch (error) {
    if ((error as ServerProblem).code !== 'prove' || !(await ask())) throw error;
    return change();
  }
}
