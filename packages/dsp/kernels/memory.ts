// Bump allocation: a kernel instance allocates everything while it is constructed and never frees, so
// nothing can be allocated inside a processing loop.

let top: usize = (__heap_base + 15) & ~15;

/** Reserves `bytes` zeroed bytes at a 16-byte boundary, growing the memory when needed; returns the address. */
export function allocate(bytes: i32): usize {
  const address = top;
  top = (top + <usize>bytes + 15) & ~15;
  const missing = <i32>top - (memory.size() << 16);
  if (missing > 0) memory.grow((missing + 0xffff) >> 16);
  return address;
}
