import type { AcceptSession, ChangeComment, HereView, MakeComment, SayHere, TalkView } from '@euphonos/contracts';
import { request } from './client.js';

export const getTalk = (sessionId: string): Promise<TalkView> => request('GET', `sessions/${sessionId}/talk`);
export const say = (sessionId: string, body: MakeComment): Promise<TalkView> => request('POST', `sessions/${sessionId}/comments`, body);
export const changeComment = (id: string, body: ChangeComment): Promise<void> => request('PATCH', `comments/${id}`, body);
export const takeCommentBack = (id: string): Promise<void> => request('DELETE', `comments/${id}`);
export const acceptSession = (sessionId: string, body: AcceptSession): Promise<TalkView> =>
  request('POST', `sessions/${sessionId}/acceptances`, body);
export const sayHere = (body: SayHere): Promise<HereView[]> => request('POST', 'presence', body, true);
