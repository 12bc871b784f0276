"""What the model learns from: talk of the prompts and steady noise, mixed as spectra, with a profile taken elsewhere.

Frames: square-root Hann, 1024 samples at 24 kHz, 75 % overlap. Talk: other speeds, tone, bandwidth and rooms; what a prompt of
16 kHz does not hold above its edge is filled from below in half of them, or the model would learn that nothing is ever there.
"""
import numpy as np

import sounds

RATE_HZ = sounds.RATE_HZ
SIZE, HOP, BINS = 1024, 256, 513
FRAMES = 144
WINDOW = np.sqrt(0.5 - 0.5 * np.cos(2 * np.pi * np.arange(SIZE) / SIZE)).astype(np.float32)
HZ = np.arange(BINS) * RATE_HZ / SIZE


def spectra(x):
    frames = np.lib.stride_tricks.sliding_window_view(x, SIZE)[::HOP] * WINDOW
    return np.fft.rfft(frames, axis=1).astype(np.complex64)


def at_speed(x, factor):
    """Resampled through the whole spectrum: `factor` times as fast."""
    count = int(len(x) / factor)
    size = max(2, count // 2 * 2)
    spectrum = np.fft.rfft(x, len(x) // 2 * 2)
    out = np.zeros(size // 2 + 1, complex)
    take = min(len(out), len(spectrum))
    out[:take] = spectrum[:take]
    return (np.fft.irfft(out, size) * size / len(x)).astype(np.float32)


def smooth_curve(rng, depth_db, points):
    """A random curve over logarithmic frequency, as gains of bins."""
    place = np.log2(np.maximum(HZ, 60) / 60) / np.log2(200) * (points - 1)
    return 10 ** (np.interp(place, np.arange(points), rng.uniform(-depth_db, depth_db, points)) / 20)


class Talk:
    """Stretches of talk: target (what should remain, at mean frame power 1) and what is heard of it (with the room's late part)."""

    def __init__(self, talkers, rng):
        self.talkers, self.rng = talkers, rng

    def item(self):
        rng = self.rng
        talker = self.talkers[rng.integers(len(self.talkers))]
        speed = rng.uniform(0.72, 1.36)
        length = (FRAMES - 1) * HOP + SIZE
        out = np.zeros(length, np.float32)
        at = int(rng.uniform(-1.2, 0.5) * RATE_HZ)
        while at < length:
            x = at_speed(talker[rng.integers(len(talker))], speed)
            edge = min(400, len(x) // 2)
            x[:edge] *= np.linspace(0, 1, edge)
            x[-edge:] *= np.linspace(1, 0, edge)
            first, last = max(0, at), min(length, at + len(x))
            if last > first:
                out[first:last] = x[first - at : last - at]
            at += len(x) + int(rng.uniform(0.02, 1.6) * RATE_HZ)
        heard = out
        if rng.random() < 0.35:
            out, heard = self.in_room(out)
        target, room = spectra(out), spectra(heard)
        shape = self.tone() * self.band(min(8000 * speed, 11900))
        if rng.random() < 0.5:
            self.fill(target, room, min(7600 * speed, 11000))
        target, room = target * shape, room * shape
        power = np.mean(np.abs(target) ** 2)
        if power < 1e-9:
            return self.item()
        scale = 1 / np.sqrt(power * BINS)
        return (target * scale).astype(np.complex64), (room * scale).astype(np.complex64)

    def in_room(self, x):
        rng = self.rng
        count = int(0.5 * RATE_HZ)
        t = np.arange(count) / RATE_HZ
        tail = rng.standard_normal(count) * 10 ** (-3 * t / rng.uniform(0.1, 0.5))
        tail[: int(0.003 * RATE_HZ)] = 0
        tail *= 10 ** (rng.uniform(-14, -2) / 20) / np.sqrt(np.sum(tail**2))
        tail[0] = 1
        early = tail.copy()
        early[int(0.04 * RATE_HZ) :] = 0
        size = 1 << (len(x) + count).bit_length()
        spectrum = np.fft.rfft(x, size)
        return tuple(np.fft.irfft(spectrum * np.fft.rfft(response, size), size)[: len(x)].astype(np.float32) for response in (early, tail))

    def tone(self):
        return smooth_curve(self.rng, self.rng.uniform(2, 10), 8) if self.rng.random() < 0.8 else np.ones(BINS)

    def band(self, most):
        edge = self.rng.uniform(3800, 11500) if self.rng.random() < 0.5 else 12000
        return 1 / (1 + (HZ / min(edge, 12500)) ** 24) if edge < most else np.ones(BINS)

    def fill(self, target, room, edge_hz):
        """Above the edge: what is 3 kHz and more below it, moved up (frame by frame in phase) and lowered."""
        edge = int(edge_hz * SIZE / RATE_HZ)
        shift = min(edge - 20, int(self.rng.uniform(2500, 4000) * SIZE / RATE_HZ))
        gain = 10 ** (-self.rng.uniform(2, 14) / 20)
        turn = (1j ** ((shift * np.arange(len(target))) % 4))[:, None]
        for at in range(edge, BINS, shift):
            to = min(BINS, at + shift)
            for x in (target, room):
                x[:, at:to] = x[:, at - shift : to - shift] * turn * gain


class Noise:
    """Fourteen seconds of steady noise as spectra: coloured, made rich, or real."""

    def __init__(self, real, rng):
        self.real, self.rng = real, rng

    def item(self, seconds=14):
        rng = self.rng
        length = int(seconds * RATE_HZ)
        kind = rng.random()
        if kind < 0.15:
            x = self.coloured(length)
        elif kind < 0.5:
            x = getattr(self, rng.choice(['engine', 'rain', 'texture', 'low_rate']))(length)
            if rng.random() < 0.4:
                x = self.unit(x) + rng.uniform(0.1, 1) * self.unit(self.coloured(length))
        else:
            x = self.recorded(length)
            if rng.random() < 0.25:
                x = self.unit(x) + rng.uniform(0.2, 1) * self.unit(self.recorded(length))
        if rng.random() < 0.15:
            x = self.unit(x) + self.tones(length)
        out = spectra(self.unit(x))
        if rng.random() < 0.6:
            out = out * smooth_curve(rng, rng.uniform(2, 9), 8)
        return (out / np.sqrt(np.mean(np.abs(out) ** 2) * BINS)).astype(np.complex64)

    @staticmethod
    def unit(x):
        return x / (np.sqrt(np.mean(x**2)) + 1e-9)

    def filtered(self, x, curve):
        """A sound under a gain curve over the bins, from end to end."""
        size = len(x) // 2 * 2
        spectrum = np.fft.rfft(x, size)
        gain = np.interp(np.linspace(0, 1, len(spectrum)), np.linspace(0, 1, BINS), curve)
        return np.fft.irfft(spectrum * gain, size)

    def resonances(self, count):
        curve = np.full(BINS, 0.02)
        for _ in range(count):
            hz = 80 * 100 ** self.rng.random()
            curve += self.rng.uniform(0.2, 1) / np.sqrt(1 + ((HZ - hz) / (hz * self.rng.uniform(0.03, 0.3))) ** 2)
        return curve

    def padded(self, x, length):
        return np.pad(x, (0, max(0, length - len(x))), mode='wrap')[:length]

    def coloured(self, length):
        rng = self.rng
        tilt = 10 ** (rng.uniform(-9, 1) * np.log2(np.maximum(HZ, 40) / 60) / 20)
        x = self.filtered(rng.standard_normal(length), tilt * smooth_curve(rng, 9, 14))
        if rng.random() < 0.4:
            x = x * self.flutter(length, rng.uniform(0.5, 3), rng.uniform(2, 20))
        return self.padded(x, length)

    def flutter(self, length, spread_db, rate_hz):
        count = max(4, int(length / RATE_HZ * rate_hz))
        return 10 ** (np.interp(np.linspace(0, count - 1, length), np.arange(count), self.rng.standard_normal(count) * spread_db) / 20)

    def tones(self, length):
        rng = self.rng
        t = np.arange(length) / RATE_HZ
        base = rng.uniform(40, 400)
        return sum(10 ** (rng.uniform(-25, 0) / 20) * np.sin(2 * np.pi * base * (i + 1 if rng.random() < 0.6 else rng.uniform(1, 12)) * t + i) for i in range(rng.integers(1, 8)))

    def pulses(self, length, rate_hz, jitter):
        """Pulses whose distances jitter."""
        gaps = np.maximum(2, RATE_HZ / rate_hz * (1 + jitter * self.rng.standard_normal(int(length / RATE_HZ * rate_hz * 1.5) + 8)))
        at = np.cumsum(gaps).astype(int)
        at = at[at < length]
        x = np.zeros(length)
        x[at] = self.rng.uniform(0.5, 1, len(at)) * self.rng.choice([1, 1, -1], len(at))
        return x

    def engine(self, length):
        rng = self.rng
        x = self.pulses(length, rng.uniform(12, 140), rng.uniform(0.002, 0.15))
        x = self.filtered(x, self.resonances(rng.integers(3, 12)))
        return self.padded(self.unit(x) + rng.uniform(0, 0.6) * self.unit(self.coloured(length))[: len(x)], length)

    def rain(self, length):
        rng = self.rng
        x = self.pulses(length, 10 ** rng.uniform(1.8, 3.6), 0.9)
        return self.padded(self.filtered(x, self.resonances(rng.integers(2, 8)) * smooth_curve(rng, 8, 8)), length)

    def texture(self, length):
        """Bands that fluctuate by themselves."""
        rng = self.rng
        count = rng.integers(4, 24)
        edges = np.sort(np.concatenate([[0, BINS], rng.integers(2, BINS - 2, count - 1)]))
        x = np.zeros(length)
        spread, rate = rng.uniform(0.5, 4.5), rng.uniform(2, 30)
        white = rng.standard_normal(length)
        for low, high in zip(edges[:-1], edges[1:]):
            curve = np.zeros(BINS)
            curve[low:high] = 10 ** (rng.uniform(-25, 0) / 20)
            part = self.filtered(white, curve)
            x[: len(part)] += part * self.flutter(len(part), spread, rate)
        return x

    def low_rate(self, length):
        """Of a narrow band, as through a poor line."""
        edge = self.rng.uniform(700, 6000)
        return self.padded(self.filtered(self.coloured(length), 1 / (1 + (HZ / edge) ** 16)), length)

    def recorded(self, length):
        rng = self.rng
        x = self.real[rng.integers(len(self.real))]
        if len(x) > 16 * RATE_HZ:
            at = rng.integers(len(x) - 15 * RATE_HZ)
            x = x[at : at + 15 * RATE_HZ]
        x = at_speed(x, 2 ** rng.uniform(-0.7, 0.7))
        # Short ones are laid over each other by half, so that no seam is heard.
        out = np.zeros(length + len(x))
        step = max(1, int(len(x) * 0.5))
        fade = np.sqrt(np.maximum(0, np.sin(np.pi * (np.arange(len(x)) + 0.5) / len(x))))
        if len(x) >= length:
            return x[:length]
        for at in range(0, length + len(x) - step, step):
            to = min(len(out), at + len(x))
            out[at:to] += (np.roll(x, rng.integers(len(x))) * fade)[: to - at]
        return out[len(x) // 2 : len(x) // 2 + length]
