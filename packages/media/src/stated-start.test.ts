import { noise } from '../../dsp/src/testing/signals.js';
import { secondsOfTimecode, statedStart } from './stated-start.js';
import { ffmpeg, scratchFolder, writeFloatWav } from './testing/files.js';

const files = scratchFolder();
afterAll(() => files.remove());
beforeAll(() => writeFloatWav(files.path('in.wav'), noise(-30, 0.5)));

// Reference: the broadcast chunk as Debian's ffmpeg writes it (EBU Tech 3285).
test('the time reference of a broadcast WAV, in seconds of the day', async () => {
  ffmpeg('-i', files.path('in.wav'), '-write_bext', '1', '-metadata', 'time_reference=1728048000', files.path('bwf.wav'));
  expect(await statedStart(files.path('bwf.wav'))).toBe(36_001);
  ffmpeg('-i', files.path('in.wav'), '-write_bext', '1', '-metadata', 'description=no time', files.path('untimed.wav'));
  expect(await statedStart(files.path('untimed.wav'))).toBeNull();
  expect(await statedStart(files.path('in.wav'))).toBeNull();
  expect(await statedStart(files.path('nothing.wav'))).toBeNull();
});

test('the timecode of a video, at the rate of its pictures', async () => {
  const pictures = ['-f', 'lavfi', '-i', 'color=size=64x64:rate=25:duration=0.5'];
  ffmpeg(...pictures, '-i', files.path('in.wav'), '-timecode', '10:00:01:05', '-c:v', 'mpeg4', files.path('film.mov'));
  expect(await statedStart(files.path('film.mov'))).toBeCloseTo(36_001.2, 6);
});

test('what is no timecode states nothing', () => {
  const timed = (timecode: string) =>
    secondsOfTimecode({ streams: [{ codec_type: 'video', r_frame_rate: '30000/1001', tags: { timecode } }] });
  expect(timed('00:00:10:15')).toBeCloseTo(10 + (15 * 1001) / 30_000, 9);
  expect([timed('soon'), timed('1:2:3:4'), secondsOfTimecode({})]).toEqual([null, null, null]);
});
