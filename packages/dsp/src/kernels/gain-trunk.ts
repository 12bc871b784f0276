import { GAIN_STATE, GAIN_TRUNK_SHAPE, loadGainTrunk } from '../noise/gain-network.js';
import { KernelInstance, type KernelModule } from './instance.js';

/** The trunk of the gain network (kernels/gain-trunk.ts): one set of weights for all channels, a state for each. */
export class GainTrunk {
  readonly input: Float32Array;
  readonly maps: Float32Array;
  readonly state: Float32Array;
  /** Hears `input`, and tells `maps`: in two parts of about equal work, for a host that spreads them. */
  readonly first: (channel: number) => void;
  readonly second: (channel: number) => void;

  constructor(kernels: KernelModule, channels: number) {
    const [inputs, hidden, outputs] = GAIN_TRUNK_SHAPE;
    const kernel = new KernelInstance(kernels, 'gainTrunkSetUp', channels, inputs, hidden, outputs);
    loadGainTrunk(kernel, kernels);
    this.input = kernel.floats('trunkInput', inputs);
    this.maps = kernel.floats('trunkMaps', outputs);
    this.state = kernel.floats('trunkState', channels * GAIN_STATE);
    this.first = kernel.call('gainTrunkFirst');
    this.second = kernel.call('gainTrunkSecond');
  }

  reset(): void {
    this.state.fill(0);
  }
}
