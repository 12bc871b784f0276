import type { DoneView, InvitationView, SignedIn, WhoView } from '@euphonos/contracts';
import { request } from './client.js';

export const getWho = (): Promise<WhoView> => request('GET', 'who');
export const signIn = (email: string, password: string): Promise<void> => request('POST', 'sign-in', { email, password });
export const signOut = (): Promise<void> => request('POST', 'sign-out', {});
export const changePassword = (present: string, next: string): Promise<void> => request('POST', 'password', { present, next });
export const listSignIns = (): Promise<SignedIn[]> => request('GET', 'sign-ins');
/** What happened to one's own account of late, the latest first. */
export const listHappened = (): Promise<DoneView[]> => request('GET', 'sign-ins/happened');
export const endSignIn = (id: string): Promise<void> => request('DELETE', `sign-ins/${id}`);
export const lookUpInvitation = (secret: string): Promise<InvitationView> => request('POST', 'invitations/look-up', { secret });
export const takeInvitation = (body: { secret: string; name?: string; email?: string; password: string }): Promise<void> =>
  request('POST', 'invitations/take', body);
