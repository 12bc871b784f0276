/** An audio worklet that hands every block it hears to the page. */
export const TAP_MODULE = `
registerProcessor('e2e-tap', class extends AudioWorkletProcessor {
  process([input]) {
    if (input[0]) this.port.postMessage({ at: currentFrame, samples: input[0].slice() });
    return true;
  }
});`;
