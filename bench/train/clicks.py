"""Trains what tells a click from talk: /usr/bin/python3 bench/train/clicks.py (after `node bench/train/click-voices.mjs`)

Candidates are moments at which a band stands out of what it holds around; a small network looks at the levels of all bands around
each. Talk: the tuned half of the full-band voices (bench/full-band.mjs) over floors of -80 to -50 dBFS. Clicks: made ones of 0.05 to
10 ms. Writes packages/dsp/src/treatments/clicks/click-weights.ts. Fixed seed; nothing of the told half is heard.
"""
import json
import os
import sys

import numpy as np
import torch

RATE, SIZE, HOP = 48000, 64, 16
# Bins of each band, 750 Hz apart: 1.5 to 16 kHz.
BANDS = [(2, 3), (3, 4), (4, 5), (5, 7), (7, 9), (9, 12), (12, 16), (16, 22)]
# Frames before and after, each stretch by its loudest; the click itself in between.
POOLS = [(-150, -60), (-60, -30), (-30, -15), (-15, -9), (-9, -6), (-6, -4), (-4, -2), (3, 5), (5, 7), (7, 10), (10, 16), (16, 31), (31, 61), (61, 151)]
AROUND, APART = 60, 6
LEAST_PROMINENCE_DB = 3.0
FOLDER = os.environ.get('EUPHONOS_BENCH', os.path.join(os.path.dirname(__file__), '../../.euphonos/bench'))
OUT = os.path.join(os.path.dirname(__file__), '../../packages/dsp/src/treatments/clicks/click-weights.ts')
HANN = 0.5 - 0.5 * np.cos(2 * np.pi * np.arange(SIZE) / SIZE)


def band_levels(x):
    """[frames, 8], dB. Frame t is centred on t * HOP."""
    padded = np.pad(x.astype(np.float64), SIZE // 2)
    frames = np.lib.stride_tricks.sliding_window_view(padded, SIZE)[::HOP] * HANN
    power = np.abs(np.fft.rfft(frames, axis=1)) ** 2
    return (10 * np.log10(np.stack([power[:, a:b].mean(1) for a, b in BANDS], 1) + 1e-9)).astype(np.float32)


def prominences(levels):
    """How far each band stands above the loudest fiftieth of the 20 ms around, without the click itself: [frames, 8]."""
    padded = np.pad(levels, ((AROUND, AROUND), (0, 0)), mode='edge')
    view = np.lib.stride_tricks.sliding_window_view(padded, 2 * AROUND + 1, axis=0)
    keep = np.abs(np.arange(-AROUND, AROUND + 1)) > APART
    around = np.partition(view[..., keep], -3, axis=-1)[..., -3]
    return levels - around


def candidates(levels, prominence):
    """Frames where the most prominent band is a peak of its kind."""
    top = prominence.max(1)
    peak = np.zeros(len(top), bool)
    peak[3:-3] = (top[3:-3] > LEAST_PROMINENCE_DB) & np.all([top[3:-3] >= top[3 + d : len(top) - 3 + d] for d in (-3, -2, -1, 1, 2, 3)], axis=0)
    return np.nonzero(peak)[0]


def features(levels, prominence, at):
    """[candidates, 8 * 14 + 8 + 8]: levels around against the click's, its shape over the bands, its prominence."""
    padded = np.pad(levels, ((151, 151), (0, 0)), mode='edge')
    rows = at[:, None] + 151
    centre = padded[rows + np.arange(-1, 2)].max(1)
    parts = [np.clip((padded[rows + np.arange(a, b)].max(1) - centre) / 20, -2, 1) for a, b in POOLS]
    parts.append(np.clip((centre - centre.mean(1, keepdims=True)) / 20, -2, 2))
    parts.append(np.clip(prominence[at] / 20, -1, 2))
    return np.concatenate(parts, 1).astype(np.float32)


def put_clicks(x, rng, per_second):
    heard, places = x.copy(), []
    for i in range(int(len(x) / RATE * per_second)):
        at = int((i + rng.uniform(0.2, 0.8)) / per_second * RATE)
        if at < 2000 or at > len(x) - 2000:
            continue
        # Half of them ring on, as mouths do.
        length = int(RATE * 10 ** (rng.uniform(np.log10(0.00008), np.log10(0.0013)) if rng.random() < 0.5 else rng.uniform(-3, -2)))
        kind = rng.random()
        n = np.arange(max(3, length))
        decay = np.exp(-rng.uniform(2.5, 5) * n / len(n))
        if kind < 0.75:
            click = sum(rng.uniform(0.3, 1) * np.cos(2 * np.pi * 10 ** rng.uniform(3.15, 4.15) / RATE * n + rng.uniform(0, 6)) for _ in range(rng.integers(1, 4))) * decay
        elif kind < 0.9:
            click = rng.standard_normal(len(n)) * decay
        else:
            click = decay * rng.choice([-1, 1])
        peak = np.abs(x[max(0, at - 9600) : at + 9600]).max()
        level = peak * 10 ** (rng.uniform(-32, 2) / 20) if rng.random() < 0.7 else 10 ** (rng.uniform(-60, -20) / 20)
        heard[at : at + len(n)] += level * click / (np.abs(click).max() + 1e-9)
        places.append((at, at + len(n)))
    return heard, places


def gather(voices, rng, rounds):
    inputs, labels, weights, owners = [], [], [], []
    for owner, voice in enumerate(voices):
        for _ in range(rounds):
            x = voice + 10 ** (rng.uniform(-80, -50) / 20) * rng.standard_normal(len(voice))
            x = x * 10 ** (rng.uniform(-12, 3) / 20)
            heard, places = put_clicks(x, rng, 1.5)
            levels = band_levels(heard)
            prominence = prominences(levels)
            at = candidates(levels, prominence)
            label, weight = np.zeros(len(at)), np.ones(len(at))
            for start, end in places:
                near = (at * HOP > start - 60) & (at * HOP < min(end, start + 100) + 60)
                label[near] = 1
                # What hardly stands out is nobody's trouble, either way.
                weight[near & (prominence[at].max(1) < 5)] = 0.1
                beyond = (at * HOP >= min(end, start + 100) + 60) & (at * HOP < end + 100)
                weight[beyond] = 0
            inputs.append(features(levels, prominence, at)), labels.append(label), weights.append(weight), owners.append(np.full(len(at), owner))
    return [torch.tensor(np.concatenate(part), dtype=torch.float32) for part in (inputs, labels, weights, owners)]


def main():
    torch.manual_seed(3), torch.set_num_threads(1)
    rng = np.random.default_rng(3)
    names = sorted(name for name in os.listdir(FOLDER) if name.startswith('click-voice-'))
    voices = [np.fromfile(os.path.join(FOLDER, name), np.float32) for name in names]
    names, voices = zip(*[(n, v) for n, v in zip(names, voices) if len(v) > 3 * RATE])
    rounds = 4
    x, y, w, owner = gather(voices, rng, rounds)
    print(json.dumps({'voices': len(voices), 'seconds': round(sum(map(len, voices)) / RATE), 'candidates': len(y), 'clicks': int(y.sum())}), flush=True)
    hidden = 24
    net = torch.nn.Sequential(torch.nn.Linear(x.shape[1], hidden), torch.nn.ReLU(), torch.nn.Dropout(0.15), torch.nn.Linear(hidden, hidden), torch.nn.ReLU(), torch.nn.Linear(hidden, 1))
    optimiser = torch.optim.Adam(net.parameters(), lr=3e-3, weight_decay=1e-5)
    steps = 9000
    for step in range(steps):
        for group in optimiser.param_groups:
            group['lr'] = 3e-3 * (0.5 + 0.5 * np.cos(np.pi * step / steps))
        pick = torch.randint(0, len(y), (512,))
        net.train()
        loss = (torch.nn.functional.binary_cross_entropy_with_logits(net(x[pick] + 0.08 * torch.randn(512, x.shape[1]))[:, 0], y[pick], reduction='none') * w[pick]).mean()
        optimiser.zero_grad(), loss.backward(), optimiser.step()
        if step == 2999:
            # Recordings that hold ticks of their own teach the wrong thing: what is told of them far more often than of others.
            net.eval()
            with torch.no_grad():
                told = (net(x)[:, 0] > 0) & (y == 0) & (w > 0.5)
                rates = [told[owner == i].sum().item() / rounds / (len(v) / RATE) for i, v in enumerate(voices)]
                usual = float(np.median(rates))
                ticking = [i for i, rate in enumerate(rates) if rate > max(2.5 * usual, 0.05)]
                for i in ticking:
                    w[(owner == i) & (y == 0)] = 0
                print('rates', [round(r, 3) for r in rates], 'left out:', [names[i] for i in ticking], flush=True)
        if step % 1000 == 999:
            net.eval()
            with torch.no_grad():
                z = net(x)[:, 0]
                for limit in (0, 1, 2):
                    hit = (z > limit) & (y > 0) & (w > 0.5)
                    print(step + 1, round(loss.item(), 4), f'limit {limit}: recall {hit.sum() / ((y > 0) & (w > 0.5)).sum():.3f}, false a second {((z > limit) & (y == 0) & (w > 0.5)).sum() / (rounds * sum(map(len, voices)) / RATE):.3f}', flush=True)
    arrays = {name: [[float(f'{v:.4g}') for v in row] for row in (p.tolist() if p.dim() == 2 else [p.tolist()])] for name, p in net.state_dict().items()}
    with open(OUT, 'w') as out:
        out.write('// Made by bench/train/clicks.py. Rows are units, columns their inputs.\nexport const clickWeights = ' + json.dumps({'first': arrays['0.weight'], 'firstBias': arrays['0.bias'][0], 'second': arrays['3.weight'], 'secondBias': arrays['3.bias'][0], 'last': arrays['5.weight'][0], 'lastBias': arrays['5.bias'][0][0]}) + ' as const;\n')


if __name__ == '__main__':
    sys.exit(main())
