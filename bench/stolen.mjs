// How much of the processors the host gave to others: on a shared machine a figure says nothing without it.
import { readFileSync } from 'node:fs';

/** Ticks since the start of the machine, of all cores (proc(5), /proc/stat): all of them, and those that were stolen. */
function ticks() {
  const numbers = /^cpu +(.*)$/m.exec(readFileSync('/proc/stat', 'utf8'))[1].split(' ').map(Number);
  return { all: numbers.slice(0, 8).reduce((a, b) => a + b), stolen: numbers[7] };
}

/** Begins to count. @returns asks how much was stolen since, % of all that there is */
export function stolenSince() {
  const from = ticks();
  return () => {
    const to = ticks();
    return (100 * (to.stolen - from.stolen)) / Math.max(1, to.all - from.all);
  };
}
