import type {
  ChangePerson,
  DonePage,
  InvitationMade,
  Invite,
  OpenInvitation,
  PersonName,
  PersonView,
  ProductionPerson,
  Share,
} from '@euphonos/contracts';
import { request } from './client.js';
import { grave } from './prove.js';

export const listPeople = (): Promise<PersonView[]> => request('GET', 'people');
export const listNames = (): Promise<PersonName[]> => request('GET', 'people/names');
export const changePerson = (id: string, body: ChangePerson): Promise<void> => grave(() => request('PATCH', `people/${id}`, body));
export const renewPassword = (id: string): Promise<InvitationMade> => grave(() => request('POST', `people/${id}/renewal`, {}));
export const listInvitations = (): Promise<OpenInvitation[]> => request('GET', 'invitations');
export const invite = (body: Invite): Promise<InvitationMade> => grave(() => request('POST', 'invitations', body));
export const takeInvitationBack = (id: string): Promise<void> => request('DELETE', `invitations/${id}`);
export const listDone = (before: string | null, personId: string | null): Promise<DonePage> => {
  const query = new URLSearchParams({ ...(before ? { before } : {}), ...(personId ? { person: personId } : {}) });
  return request('GET', `done?${query.toString()}`);
};
export const listShared = (productionId: string): Promise<ProductionPerson[]> => request('GET', `productions/${productionId}/people`);
export const shareProduction = (productionId: string, personId: string, share: Share): Promise<void> =>
  request('PUT', `productions/${productionId}/people/${personId}`, { share });
export const unshareProduction = (productionId: string, personId: string): Promise<void> =>
  request('DELETE', `productions/${productionId}/people/${personId}`);
