import { codeAddress, newCodeSecret, stepOfCode } from './one-time-code.js';

/** The seed "12345678901234567890" of RFC 6238, Appendix B, in base 32. */
const SEED = 'GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ';

// RFC 6238, Appendix B, SHA1: the last six of its eight digits.
test.each([
  [59, '287082', 0x1],
  [1111111109, '081804', 0x23523ec],
  [1111111111, '050471', 0x23523ed],
  [1234567890, '005924', 0x273ef07],
  [2000000000, '279037', 0x3f940aa],
  [20000000000, '353130', 0x27bc86aa],
])('at %i s the code is %s, of step %i', (seconds, code, step) => {
  expect(stepOfCode(code, SEED, seconds * 1000)).toBe(step);
  // Half a minute off either way is taken, as the step that it is of; more is not.
  expect(stepOfCode(code, SEED, (seconds + 30) * 1000)).toBe(step);
  expect(stepOfCode(code, SEED, (seconds + 60) * 1000)).toBeNull();
});

test('each secret is another one, of 160 bits, and told as devices read it', () => {
  const secret = newCodeSecret();
  expect(secret).toMatch(/^[A-Z2-7]{32}$/);
  expect(newCodeSecret()).not.toBe(secret);
  expect(codeAddress('tam@studio.example', secret)).toBe(
    `otpauth://totp/Euphonos:tam%40studio.example?secret=${secret}&period=30&digits=6&algorithm=SHA1&issuer=Euphonos`,
  );
});
