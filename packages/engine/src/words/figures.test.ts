import { digitsOf, formatBytes, formatDb, formatNumber, formatTime, setMinus } from './figures.js';

test('numbers carry a typographic minus and no minus zero', () => {
  expect([formatNumber(-12.34, 1), formatNumber(-0.04, 1), formatNumber(3, 0)]).toEqual(['−12.3', '0.0', '3']);
  expect(setMinus('at -45.3 dBFS (-3), e-mail')).toBe('at −45.3 dBFS (−3), e-mail');
});

test('what could not be measured is a dash', () => {
  expect([formatDb(null, 'LUFS'), formatDb(-Infinity, 'dBFS'), formatDb(-16, 'LUFS')]).toEqual(['– LUFS', '– dBFS', '−16.0 LUFS']);
});

test('times', () => {
  expect([formatTime(0), formatTime(59.9996), formatTime(61.5, 1), formatTime(3723.25, 2), formatTime(-1, 0)]).toEqual([
    '0:00.000',
    '0:59.999',
    '1:01.5',
    '1:02:03.25',
    '0:00',
  ]);
});

test('sizes and steps', () => {
  expect([formatBytes(12), formatBytes(9990), formatBytes(5_100_000), formatBytes(2.4e9)]).toEqual([
    '12 bytes',
    '10.0 KB',
    '5.1 MB',
    '2.4 GB',
  ]);
  expect([digitsOf(1), digitsOf(0.5), digitsOf(0.25)]).toEqual([0, 1, 2]);
});
