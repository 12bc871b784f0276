/** How figures are written, everywhere alike. */
export { channelWord, digitsOf, formatBytes, formatDb, formatNumber, formatRate, formatTime, setMinus, unitText } from '@euphonos/engine';
