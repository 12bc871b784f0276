import type { DoneView, InvitationView, SecondStepBegun, SignedIn, WhoView } from '@euphonos/contracts';
import { request } from './client.js';
import { grave } from './prove.js';

export const getWho = (): Promise<WhoView> => request('GET', 'who');
export const signIn = (email: string, password: string, code?: string): Promise<void> =>
  request('POST', 'sign-in', { email, password, ...(code ? { code } : {}) });
export const hasSecondStep = (): Promise<boolean> => request<{ set: boolean }>('GET', 'second-step').then(({ set }) => set);
export const beginSecondStep = (): Promise<SecondStepBegun> => grave(() => request('POST', 'second-step', {}));
export const confirmSecondStep = (code: string): Promise<void> => grave(() => request('PUT', 'second-step', { code }));
export const removeSecondStep = (): Promise<void> => grave(() => request('DELETE', 'second-step'));
export const signOut = (): Promise<void> => request('POST', 'sign-out', {});
export const changePassword = (present: string, next: string): Promise<void> => request('POST', 'password', { present, next });
export const listSignIns = (): Promise<SignedIn[]> => request('GET', 'sign-ins');
/** What happened to one's own account of late, the latest first. */
export const listHappened = (): Promise<DoneView[]> => request('GET', 'sign-ins/happened');
export const endSignIn = (id: string): Promise<void> => request('DELETE', `sign-ins/${id}`);
export const lookUpInvitation = (secret: string): Promise<InvitationView> => request('POST', 'invitations/look-up', { secret });
export const takeInvitation = (body: { secret: string; name?: string; email?: string; password: string }): Promise<void> =>
  request('POST', 'invitations/take', body);
