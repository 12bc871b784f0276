"""Trains the gain network and writes its weights: python3 bench/train/train.py [--steps N] [--out FILE] [--quick]

One thread, a fixed seed: the same weights from the same packages. --quick: three steps on made sounds, nothing fetched (a test).
"""
import argparse
import json
import sys
import time

import numpy as np
import torch

import export
import mixes
import model
import sounds

BATCH = 12
POOL = 400
RENEWED = 2


def quick_sounds(rng):
    t = np.arange(2 * mixes.RATE_HZ) / mixes.RATE_HZ
    voice = [sum(np.sin(2 * np.pi * hz * i * t) / i for i in range(1, 20)).astype(np.float32) * (0.3 + 0.3 * np.sin(20 * t)) for hz in (110, 150, 190)]
    return [voice], [rng.standard_normal(3 * mixes.RATE_HZ).astype(np.float32)]


def fetched_sounds(without):
    talkers = [sounds.prompts(p) for p in sounds.PROMPTS] + ([] if 'reader' in without else [sounds.reader()])
    real = [x for p in sounds.NOISE_PACKAGES if p not in without for x in sounds.noises(p)]
    return talkers, real


class Batches:
    def __init__(self, talkers, real, rng, pool):
        self.rng, self.pool = rng, pool
        self.talk, self.noise = mixes.Talk(talkers, rng), mixes.Noise(real, rng)
        self.talks = [self.talk.item() for _ in range(pool)]
        self.noises = [self.noise.item() for _ in range(pool)]
        self.oldest = 0

    def next(self):
        rng = self.rng
        for _ in range(RENEWED):
            self.talks[self.oldest % self.pool] = self.talk.item()
            self.noises[self.oldest % self.pool] = self.noise.item()
            self.oldest += 1
        x, target, known = [], [], []
        for _ in range(BATCH):
            clean, room = self.talks[rng.integers(self.pool)]
            noise = self.noises[rng.integers(self.pool)]
            gain = 10 ** (-rng.uniform(-5, 25) / 20)
            at = rng.integers(len(noise) - mixes.FRAMES)
            # The profile: from elsewhere in the noise, off by some level and colour; the noise drifts besides.
            count = rng.integers(60, 180)
            elsewhere = (at + mixes.FRAMES + rng.integers(0, 400)) % max(1, len(noise) - count)
            profile = np.mean(np.abs(noise[elsewhere : elsewhere + count]) ** 2, axis=0) * gain**2
            off = rng.normal(0, 0.8) + 20 * np.log10(mixes.smooth_curve(rng, rng.uniform(0, 1.6), 8))
            drift = 10 ** (rng.uniform(-1, 1) * np.linspace(-1, 1, mixes.FRAMES)[:, None] / 20)
            heard = room + noise[at : at + mixes.FRAMES] * (gain * drift)
            x.append(heard[: len(clean)])
            target.append(clean)
            known.append(profile * 10 ** (off / 10) + 1e-9)
        return (torch.from_numpy(np.stack(part)) for part in (np.array(x, np.complex64), np.array(target, np.complex64), np.array(known, np.float32)))


def main():
    options = argparse.ArgumentParser()
    options.add_argument('--steps', type=int, default=1640)
    options.add_argument('--seed', type=int, default=7)
    options.add_argument('--rate', type=float, default=2.2e-3)
    options.add_argument('--threads', type=int, default=1)
    options.add_argument('--out', default='noise-model.bin')
    options.add_argument('--without', default='', help='packages (or "reader") that are kept away, for tuning')
    options.add_argument('--go-on', default='', help='weights (.pt) to go on from: the gain that is applied is then what is judged')
    options.add_argument('--energy', type=float, default=1.0, help='weight of the energy of the error')
    options.add_argument('--quick', action='store_true')
    given = options.parse_args()
    torch.manual_seed(given.seed)
    torch.set_num_threads(given.threads)
    rng = np.random.default_rng(given.seed)
    talkers, real = quick_sounds(rng) if given.quick else fetched_sounds(given.without.split(','))
    print(json.dumps({'talkers': len(talkers), 'talkSeconds': round(sum(len(x) for t in talkers for x in t) / mixes.RATE_HZ), 'noises': len(real), 'noiseSeconds': round(sum(map(len, real)) / mixes.RATE_HZ)}), flush=True)
    batches = Batches(talkers, real, rng, 6 if given.quick else POOL)
    steps = 3 if given.quick else given.steps
    net = model.Network()
    if given.go_on:
        net.load_state_dict(torch.load(given.go_on))
    optimiser = torch.optim.Adam(net.parameters(), lr=given.rate, betas=(0.9, 0.99))
    mean = [p.detach().clone() for p in net.parameters()]
    spread, thirds = model.spread_matrix(), model.third_octaves()
    began, told = time.time(), []
    for step in range(steps):
        share = step / steps
        for group in optimiser.param_groups:
            group['lr'] = given.rate * min(1, (step + 1) / 20) * (1 if share < 0.3 else 0.5 + 0.5 * np.cos(np.pi * (share - 0.3) / 0.7))
        x, target, known = batches.next()
        f1, f2, dd = model.features(x.abs().square(), known)
        gain = net(f1, f2, dd) @ spread
        if given.go_on:
            gain = model.joined(gain, x[:, 2:-2].abs().square(), known)
        loss, estoi, error = model.loss_of(gain, x[:, 2:-2], target[:, 2:-2], thirds, energy_weight=given.energy)
        optimiser.zero_grad(set_to_none=True)
        loss.backward()
        torch.nn.utils.clip_grad_norm_(net.parameters(), 1.5)
        optimiser.step()
        keep = min(0.997, step / (step + 10))
        with torch.no_grad():
            for kept, p in zip(mean, net.parameters()):
                kept.lerp_(p, 1 - keep)
        told.append((loss.item(), estoi.item(), error.item()))
        if step % 50 == 49 or step == steps - 1:
            print(f'{step + 1} of {steps}: loss {np.mean([a for a, _, _ in told]):.3f}, ESTOI {np.mean([b for _, b, _ in told]):.4f}, SDR {np.mean([c for _, _, c in told]):.2f} dB, {time.time() - began:.0f} s', flush=True)
            told = []
    with torch.no_grad():
        for kept, p in zip(mean, net.parameters()):
            p.copy_(kept)
    export.write(net, given.out)
    torch.save(net.state_dict(), given.out + '.pt')


if __name__ == '__main__':
    sys.exit(main())
