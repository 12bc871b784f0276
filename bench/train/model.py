"""The gain network: features, layers, loss. Shapes are [batch, frames, ...]; powers are |X|² under the square-root Hann window.

A trunk hears all bands (dense, two gated recurrent layers, dense) and tells each band three numbers; a small part, the same for
every band, puts them together with what lies around the band; beside both goes a textbook rule (decision-directed a-priori SNR,
Ephraim & Malah 1984) with weights of the band's own, from which training starts.
"""
import math

import numpy as np
import torch
from torch import nn

SINGLE = 171
WIDE = 45
BANDS = SINGLE + WIDE
BINS = 513
EDGES = [round(171 * 3 ** (i / WIDE)) for i in range(WIDE + 1)]
HIDDEN = 192
# The local part hears two frames beyond the one that is weighed; the trunk one, so that a host may spread it over a hop.
AHEAD, TRUNK_AHEAD = 2, 1
LOCAL, LOCAL_HIDDEN = 17, 6
LEAST_PRIOR = 10**-2.5
WIDE_MEANS = torch.zeros(BINS - SINGLE, WIDE)
for i in range(WIDE):
    WIDE_MEANS[EDGES[i] - SINGLE : EDGES[i + 1] - SINGLE, i] = 1 / (EDGES[i + 1] - EDGES[i])


def band_means(p):
    """[..., 513] to [..., 216]."""
    return torch.cat([p[..., :SINGLE], p[..., SINGLE:] @ WIDE_MEANS], dim=-1)


def spread_matrix():
    """Gains of bands to gains of bins: straight lines between the centres of the wide ones."""
    centres = np.concatenate([np.arange(SINGLE), [(a + b - 1) / 2 for a, b in zip(EDGES[:-1], EDGES[1:])]])
    matrix = np.zeros((BANDS, BINS), np.float32)
    for k in range(BINS):
        upper = min(max(1, int(np.searchsorted(centres, k))), BANDS - 1)
        share = float(np.clip((k - centres[upper - 1]) / (centres[upper] - centres[upper - 1]), 0, 1))
        matrix[upper - 1, k] += 1 - share
        matrix[upper, k] += share
    return torch.from_numpy(matrix)


@torch.no_grad()
def features(p, n):
    """f1: level over the noise; f2: level against the running level of the talk; dd: decision-directed a-priori SNR. p [B, T, 513], n [B, 513]."""
    bands, noise = band_means(p), band_means(n)[:, None]
    f1 = torch.log10(bands / noise + 1e-12).clamp(-2, 4) - 0.3
    energy = torch.log10(p[..., 4:171].mean(-1) + 1e-12)
    level = torch.log10(n[:, 4:171].mean(-1) + 1e-12)
    levels = []
    for t in range(p.shape[1]):
        step = energy[:, t] - level
        level = level + torch.where(step > 0, 0.3, 0.01) * step
        levels.append(level)
    f2 = ((torch.log10(bands + 1e-12) - torch.stack(levels, 1)[..., None]).clamp(-6, 2) + 1.5) / 1.3
    post = p / n[:, None]
    past = torch.zeros_like(n)
    priors = []
    for t in range(p.shape[1]):
        prior = (0.96 * past + 0.04 * (post[:, t] - 1).clamp(min=0)).clamp(min=LEAST_PRIOR)
        past = (prior / (1 + prior)) ** 2 * post[:, t]
        priors.append(prior)
    prior = torch.stack(priors, 1)
    dd = (torch.log10(band_means(prior)).clamp(-2.5, 4) + 0.5) / 1.3
    return f1, f2, dd


class Recurrent(torch.autograd.Function):
    """A gated recurrent layer (Cho et al. 2014): the part that depends on the input comes multiplied; one product a step."""

    @staticmethod
    def forward(ctx, given, weight, bias):
        steps, batch, _ = given.shape
        h = given.new_zeros(batch, HIDDEN)
        states, zs, rs, ns, vs = [h], [], [], [], []
        for t in range(steps):
            v = torch.addmm(bias, h, weight)
            u = given[t]
            zr = torch.sigmoid(u[:, : 2 * HIDDEN] + v[:, : 2 * HIDDEN])
            z, r = zr[:, :HIDDEN], zr[:, HIDDEN:]
            n = torch.tanh(u[:, 2 * HIDDEN :] + r * v[:, 2 * HIDDEN :])
            h = torch.lerp(n, h, z)
            states.append(h), zs.append(z), rs.append(r), ns.append(n), vs.append(v[:, 2 * HIDDEN :])
        ctx.save_for_backward(weight, torch.stack(states), torch.stack(zs), torch.stack(rs), torch.stack(ns), torch.stack(vs))
        return torch.stack(states[1:])

    @staticmethod
    def backward(ctx, grad):
        weight, h, z, r, n, v = ctx.saved_tensors
        turned = weight.t().contiguous()
        steps, batch, _ = grad.shape
        # Everything that does not depend on what comes back is made at once.
        to_n, to_z = (1 - z) * (1 - n * n), (h[:-1] - n) * z * (1 - z)
        to_r = v * r * (1 - r)
        du, dv = grad.new_empty(steps, batch, 3 * HIDDEN), grad.new_empty(steps, batch, 3 * HIDDEN)
        carry = grad.new_zeros(batch, HIDDEN)
        for t in range(steps - 1, -1, -1):
            d = grad[t] + carry
            dn = d * to_n[t]
            torch.mul(d, to_z[t], out=du[t, :, :HIDDEN])
            torch.mul(dn, to_r[t], out=du[t, :, HIDDEN : 2 * HIDDEN])
            du[t, :, 2 * HIDDEN :] = dn
            dv[t] = du[t]
            dv[t, :, 2 * HIDDEN :] *= r[t]
            carry = torch.addmm(d * z[t], dv[t], turned)
        flat = dv.view(-1, 3 * HIDDEN)
        return du, h[:-1].reshape(-1, HIDDEN).t() @ flat, flat.sum(0)


class Network(nn.Module):
    def __init__(self, dropout=0.08):
        super().__init__()
        self.dropout = nn.Dropout(dropout)
        def matrix(rows, columns):
            return nn.Parameter((torch.rand(rows, columns) * 2 - 1) * math.sqrt(1.5 / rows))
        def zeros(count):
            return nn.Parameter(torch.zeros(count))
        self.first, self.firstBias = matrix(2 * BANDS, HIDDEN), zeros(HIDDEN)
        self.into1, self.into1Bias, self.again1, self.again1Bias = matrix(HIDDEN, 3 * HIDDEN), zeros(3 * HIDDEN), matrix(HIDDEN, 3 * HIDDEN), zeros(3 * HIDDEN)
        self.into2, self.into2Bias, self.again2, self.again2Bias = matrix(HIDDEN, 3 * HIDDEN), zeros(3 * HIDDEN), matrix(HIDDEN, 3 * HIDDEN), zeros(3 * HIDDEN)
        self.maps, self.mapsBias = nn.Parameter((torch.rand(HIDDEN, 3 * BANDS) * 2 - 1) * 0.02), zeros(3 * BANDS)
        self.local, self.localBias = matrix(LOCAL, LOCAL_HIDDEN), zeros(LOCAL_HIDDEN)
        self.join, self.joinBias = nn.Parameter((torch.rand(LOCAL_HIDDEN) * 2 - 1) * 0.1), zeros(1)
        self.skip = nn.Parameter(torch.tensor([0.3, 0.8, 0.9, 0.6, -0.8])[:, None].repeat(1, BANDS))

    def forward(self, f1, f2, dd):
        """Gains [B, T - 4, 216] of the frames 2 … T - 3."""
        x = torch.cat([f1, f2], -1).transpose(0, 1)
        x = self.dropout(torch.relu(x @ self.first + self.firstBias))
        x = self.dropout(Recurrent.apply(x @ self.into1 + self.into1Bias, self.again1, self.again1Bias))
        x = self.dropout(Recurrent.apply(x @ self.into2 + self.into2Bias, self.again2, self.again2Bias))
        maps = (x @ self.maps + self.mapsBias).transpose(0, 1)
        maps = maps.reshape(*maps.shape[:2], 3, BANDS)
        at = lambda x, d: x[:, 2 + d : x.shape[1] - 2 + d]
        beside = lambda x, d: torch.roll(torch.nn.functional.pad(x, (2, 2)), -d, -1)[..., 2:-2]
        here = at(f1, 0)
        m = at(maps, TRUNK_AHEAD)
        parts = [at(f1, d) for d in (-2, -1, 0, 1, 2)] + [at(dd, 0), at(dd, 2)]
        parts += [beside(here, d) for d in (-2, -1, 1, 2)] + [beside(at(dd, 1), d) for d in (-1, 1)] + [at(f2, 0)]
        parts += [m[:, :, 0], m[:, :, 1], m[:, :, 2]]
        hidden = torch.relu(torch.stack(parts, -1) @ self.local + self.localBias)
        local = hidden @ self.join + self.joinBias
        s = self.skip
        return torch.sigmoid(m[:, :, 0] + local + s[0] * here + s[1] * at(dd, 0) + s[2] * at(dd, 1) + s[3] * at(dd, 2) + s[4])


def half_e1(v):
    """exp(E1(v) / 2), Abramowitz & Stegun 5.1.53 and 5.1.56."""
    low, high = v.clamp(1e-6, 1), v.clamp(1, 60)
    series = -torch.log(low) - 0.57721566 + low * (0.99999193 + low * (-0.24991055 + low * (0.05519968 + low * (-0.00976004 + low * 0.00107857))))
    top = high**4 + 8.5733287401 * high**3 + 18.059016973 * high**2 + 8.6347608925 * high + 0.2677737343
    bottom = high**4 + 9.5733223454 * high**3 + 25.6329561486 * high**2 + 21.0996530827 * high + 3.9584969228
    return torch.exp(torch.where(v < 1, series, torch.exp(-high) / high * top / bottom) / 2)


def joined(gain, power, noise):
    """The gain that is applied: of log-MMSE (Ephraim & Malah 1985, eq. 20), the network's gain g standing for an a-priori SNR of g² P/N."""
    post = (power / noise[:, None]).clamp(1e-3, 1e5)
    prior = gain.square() * post
    wiener = prior / (1 + prior)
    return (wiener * half_e1(wiener * post)).clamp(max=1)


THIRDS = [(150 * 2 ** ((2 * j - 1) / 6), 150 * 2 ** ((2 * j + 1) / 6)) for j in range(15)]


def third_octaves():
    matrix = torch.zeros(BINS, 15)
    for j, (low, high) in enumerate(THIRDS):
        matrix[round(low * 1024 / 24000) : max(round(low * 1024 / 24000) + 1, round(high * 1024 / 24000)), j] = 1
    return matrix


def loss_of(gain, x, target, thirds, segment=36, energy_weight=1.0):
    """gain, x, target [B, T, 513], target at mean frame power 1 over its talk. Three parts: compressed spectra, energy of the error, ESTOI."""
    power_x, power_s = x.abs().square(), target.abs().square()
    a = (gain * x.abs() + 1e-8).sqrt()
    b = (target.abs() + 1e-8).sqrt()
    phase = torch.cos(torch.angle(x) - torch.angle(target))
    compressed = (a * a + b * b - 2 * a * b * (0.7 + 0.3 * phase)).mean() + 0.5 * (b - a).clamp(min=0).square().mean()
    error = (gain * x - target).abs().square().sum((1, 2)) / (power_s.sum((1, 2)) + 1e-6)
    energy = torch.log10(error + 1e-3).mean()
    # ESTOI (Jensen & Taal 2016, eq. 4 to 8) on segments of 384 ms in which somebody talks.
    clean = (power_s @ thirds + 1e-10).sqrt()
    made = ((gain.square() * power_x) @ thirds + 1e-10).sqrt()
    clean, made = (y.unfold(1, segment, 12) for y in (clean, made))
    active = clean.square().sum((2, 3))
    active = active > 0.02 * active.amax(1, keepdim=True)
    def normal(y):
        y = y - y.mean(-1, keepdim=True)
        y = y / (y.norm(dim=-1, keepdim=True) + 1e-5)
        y = y - y.mean(-2, keepdim=True)
        return y / (y.norm(dim=-2, keepdim=True) + 1e-5)
    correlation = (normal(clean) * normal(made)).sum((2, 3)) / segment
    estoi = (correlation * active).sum() / active.sum().clamp(min=1)
    return 2 * compressed / 0.02 + energy_weight * energy + 3 * (1 - estoi), estoi, -10 * energy
