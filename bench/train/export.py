"""Weights as the kernels read them (packages/dsp/kernels/noise-model.ts): per matrix a scale a column (float32), then int8 steps by
columns, each padded to a multiple of 16 rows; biases and the weights of single bands as float32. Little endian."""
import numpy as np

# As the kernel multiplies: [columns][rows], so that a column is one run of products.
MATRICES = ['first', 'into1', 'again1', 'into2', 'again2', 'maps']
VECTORS = ['firstBias', 'into1Bias', 'again1Bias', 'into2Bias', 'again2Bias', 'mapsBias', 'local', 'localBias', 'join', 'joinBias', 'skip']


def rounded(w):
    """Eight bits, one scale a column. w [rows, columns]."""
    scale = np.abs(w).max(axis=0) / 127 + 1e-12
    return scale.astype(np.float32), np.round(w / scale).astype(np.int8)


def write(net, path):
    state = {name: p.detach().numpy() for name, p in net.named_parameters()}
    with open(path, 'wb') as out:
        for name in VECTORS:
            out.write(state[name].astype('<f4').tobytes())
        for name in MATRICES:
            out.write(rounded(state[name])[0].astype('<f4').tobytes())
        for name in MATRICES:
            out.write(np.ascontiguousarray(rounded(state[name])[1].T).tobytes())
