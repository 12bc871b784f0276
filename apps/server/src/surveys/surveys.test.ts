import { readFileSync } from 'node:fs';
import type { SurveyView } from '@euphonos/contracts';
import { joined, mixed, noise, silence, sine } from '../../../../packages/dsp/src/testing/signals.js';
import { scratchFolder, writeFloatWav } from '../../../../packages/media/src/testing/files.js';
import { TestServer, until } from '../testing/test-server.js';

const files = scratchFolder();
const sound = mixed(joined(silence(1), sine(300, -12, 2), silence(1)), noise(-50, 4, 3));
const wav = (name: string, samples = sound): Buffer => {
  writeFloatWav(files.path(name), samples);
  return readFileSync(files.path(name));
};
let server: TestServer;
beforeAll(async () => {
  server = await TestServer.create();
});
afterAll(async () => {
  await server.close();
  files.remove();
});

describe('a survey', () => {
  const surveyed = async (id: string): Promise<SurveyView> =>
    (
      await until(
        () => server.json<SurveyView>('GET', `recordings/${id}/survey`),
        ({ body }) => Boolean(body.survey),
      )
    ).body;

  test('is made of every recording by itself, once, and says what is wrong', async () => {
    const hum = mixed(sound, sine(50, -40, 4));
    const { recording } = await server.bringIn('hum.wav', wav('hum.wav', hum));
    const { job, survey } = await surveyed(recording.id);
    expect(job).toMatchObject({ kind: 'survey', state: 'done', problem: null });
    expect(survey!.seconds).toBeCloseTo(4);
    expect(survey!.findings.find(({ kind }) => kind === 'hum')).toMatchObject({ source: 'mains', suggestion: { kind: 'hum-lines' } });
    const again = await server.json<SurveyView>('POST', `recordings/${recording.id}/survey`, {});
    expect(again.body.job.id).toBe(job.id);
  });

  test('goes with its session', async () => {
    const gone = await server.bringIn('gone.wav', wav('gone.wav'));
    await surveyed(gone.recording.id);
    expect((await server.fetch(`sessions/${gone.id}?final=true`, { method: 'DELETE' })).status).toBe(204);
    expect((await server.json('GET', `recordings/${gone.recording.id}/survey`)).status).toBe(404);
  });

  test('of a file that cannot be read is refused with a reason', async () => {
    const { recording } = await server.bringIn('no sound.wav', Buffer.from('No sound in here. '.repeat(99)));
    expect(await server.json('GET', `recordings/${recording.id}/survey`)).toMatchObject({ status: 409, body: { code: 'not-ready' } });
  });
});
