"""Speech and noises to train on: fetched from Debian's packages, decoded once, kept as float32 at 24 kHz.

Speech: studio prompts of four talkers (asterisk-core-sounds-it/-ru-g722, CC-BY 3.0; -en/-es-g722, CC-BY-SA 3.0) and read prose
(pocketsphinx-testdata, public domain). Noises: what is steady enough among the sounds of eight packages. Nothing else is fetched
for training or tuning, so that all other voices and noises stay unheard.
"""
import os
import subprocess
import zipfile

import numpy as np

RATE_HZ = 24000
FOLDER = os.environ.get('EUPHONOS_BENCH', os.path.join(os.path.dirname(__file__), '../../.euphonos/bench'))
PROMPTS = ['asterisk-core-sounds-it-g722', 'asterisk-core-sounds-ru-g722', 'asterisk-core-sounds-en-g722', 'asterisk-core-sounds-es-g722']
READER = 'pocketsphinx-testdata'
NOISE_PACKAGES = ['megaglest-data', 'lugaru-data', 'sonic-pi-samples', 'trigger-rally-data', 'unknown-horizons', 'lincity-ng-data', 'extremetuxracer-data', 'warzone2100-data']
SOUND = ('.ogg', '.wav', '.flac', '.mp3', '.aif', '.aiff')
# Level of the frames of a sound, 90th against 10th percentile: above that it is no steady noise.
STEADY_DB = 12


def fetch(package):
    """Unpacks a Debian package into a folder of the bench, once; archives in it too."""
    folder = os.path.join(FOLDER, package)
    if os.path.isdir(os.path.join(folder, 'usr')):
        return folder
    os.makedirs(folder, exist_ok=True)
    subprocess.run(['apt-get', 'download', '-qq', package], cwd=folder, check=True, stderr=subprocess.DEVNULL)
    subprocess.run(f'dpkg-deb -x {package}_*.deb . && rm {package}_*.deb', cwd=folder, check=True, shell=True)
    return folder


def unpack_archives(folder):
    for root, _, names in os.walk(folder):
        for name in names:
            path = os.path.join(root, name)
            if name.endswith(('.zip', '.wz', '.zipfile')) and zipfile.is_zipfile(path) and not os.path.isdir(path + '.d'):
                with zipfile.ZipFile(path) as archive:
                    for entry in archive.namelist():
                        if entry.lower().endswith(SOUND):
                            archive.extract(entry, path + '.d')


def decode(path, before=()):
    done = subprocess.run(['ffmpeg', '-nostdin', '-v', 'error', *before, '-i', path, '-ac', '1', '-af', f'aresample={RATE_HZ}:resampler=soxr', '-f', 'f32le', '-'], capture_output=True)
    return np.frombuffer(done.stdout[: len(done.stdout) // 4 * 4], dtype=np.float32)


def files(folder, endings):
    return sorted(os.path.join(root, name) for root, _, names in os.walk(folder) for name in names if name.lower().endswith(endings))


def kept(name, make):
    """A list of sounds, made once; one after the other in a file, their lengths beside it."""
    path = os.path.join(FOLDER, f'train-{name}.npz')
    if not os.path.exists(path):
        sounds = make()
        np.savez(path, lengths=[len(x) for x in sounds], samples=np.concatenate(sounds))
    stored = np.load(path)
    return np.split(stored['samples'], np.cumsum(stored['lengths'])[:-1])


def prompts(package):
    """Prompts of one talker, levelled together; each a list entry."""
    def make():
        sounds = [decode(path, ('-f', 'g722')) for path in files(fetch(package), '.g722')]
        return [x for x in sounds if len(x) > 0.6 * RATE_HZ and np.sqrt(np.mean(x**2)) > 0.003]
    return kept(package, make)


def reader():
    return kept(READER, lambda: [decode(path) for path in files(os.path.join(fetch(READER), 'usr/share/pocketsphinx/test/data/librivox'), '.wav')])


def is_steady(x):
    if len(x) < 1.2 * RATE_HZ:
        return False
    x = x[: 30 * RATE_HZ]
    frames = x[: len(x) // 2400 * 2400].reshape(-1, 2400)
    level = 10 * np.log10(np.mean(frames**2, axis=1) + 1e-10)
    return np.mean(x**2) > 1e-7 and np.percentile(level, 90) - np.percentile(level, 10) < STEADY_DB


def noises(package):
    """Steady sounds of a package, up to 30 s of each; none that is named as music or a voice."""
    def make():
        folder = fetch(package)
        unpack_archives(folder)
        sounds = []
        for path in files(folder, SOUND):
            lower = path.lower()
            if any(word in lower for word in ('music', 'voice', 'speech', '_ack', '_select', 'audio/sequences', 'briefing')):
                continue
            x = decode(path)[: 30 * RATE_HZ]
            if is_steady(x):
                sounds.append(x / np.sqrt(np.mean(x**2)))
        return sounds or [np.zeros(0, np.float32)]
    return [x for x in kept(package, make) if len(x) > 0]
