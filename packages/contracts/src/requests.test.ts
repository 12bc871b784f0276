import 'reflect-metadata';
import { plainToInstance } from 'class-transformer';
import { validateSync } from 'class-validator';
import { MAX_NAME_LENGTH, RenameSession, SaveDocument } from './sessions.js';
import { KeepProfile, MAX_PROFILE_NAME_LENGTH, RenameProfile } from './profiles.js';
import { StartRender } from './renders.js';

const refused = <T extends object>(type: new () => T, body: object): string[] =>
  validateSync(plainToInstance(type, body)).map(({ property }) => property);

test.each<[new () => object, object, string[]]>([
  [SaveDocument, { revision: 0, document: {} }, []],
  [SaveDocument, { revision: -1, document: {} }, ['revision']],
  [SaveDocument, { revision: 1.5, document: 'text' }, ['revision', 'document']],
  [SaveDocument, {}, ['revision', 'document']],
  [RenameSession, { name: 'n'.repeat(MAX_NAME_LENGTH) }, []],
  [RenameSession, { name: '' }, ['name']],
  [RenameSession, { name: 'n'.repeat(MAX_NAME_LENGTH + 1) }, ['name']],
  [RenameSession, { name: 7 }, ['name']],
  [StartRender, { revision: 3 }, []],
  [StartRender, { revision: 3, trackId: 'track-2' }, []],
  [StartRender, { revision: 3, trackId: 2 }, ['trackId']],
  [KeepProfile, { file: {} }, []],
  [KeepProfile, { file: 'text', sessionId: 'mine' }, ['file', 'sessionId']],
  [RenameProfile, { name: '' }, ['name']],
  [RenameProfile, { name: 'n'.repeat(MAX_PROFILE_NAME_LENGTH + 1) }, ['name']],
  [StartRender, { revision: '3' }, ['revision']],
])('%p with %j is refused for %j', (type, body, properties) => {
  expect(refused(type, body)).toEqual(properties);
});
