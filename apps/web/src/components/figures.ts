/** How figures are written, everywhere alike. */
export {
  channelWord,
  digitsOf,
  formatBytes,
  formatDb,
  formatNumber,
  formatRate,
  formatTime,
  setMinus,
  unitDigits,
  unitText,
} from '@euphonos/engine';
