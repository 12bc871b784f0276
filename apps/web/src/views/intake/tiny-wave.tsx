import { BUCKET_VALUES, bucketCount, levelOffset, peakLevelCount } from '@euphonos/dsp';
import { useEffect, useState } from 'react';
import { fetchBytes } from '../../api/client.js';

const WIDTH = 168;
const HEIGHT = 30;
const FLOOR_DB = -60;

/** A recording at a glance: its level over time, on a decibel scale. */
export function TinyWave({ recordingId: id, lengthFrames }: { readonly recordingId: string; readonly lengthFrames: number }) {
  const [path, setPath] = useState('');
  useEffect(() => {
    const stop = new AbortController();
    const level = Math.max(0, peakLevelCount(lengthFrames) - 2);
    const first = levelOffset(lengthFrames, level);
    const bytes = BUCKET_VALUES * 4;
    fetchBytes(`${id}/peaks`, first * bytes, (first + bucketCount(lengthFrames, level)) * bytes, stop.signal).then(
      (bytes) => setPath(outline(new Float32Array(bytes))),
      () => undefined,
    );
    return () => stop.abort();
  }, [id, lengthFrames]);
  return (
    <svg width={WIDTH} height={HEIGHT} aria-hidden className="block shrink-0">
      <path d={path} fill="var(--source)" opacity="0.75" />
    </svg>
  );
}

function outline(buckets: Float32Array): string {
  const count = buckets.length / BUCKET_VALUES;
  const middle = HEIGHT / 2;
  let above = '';
  let below = '';
  for (let i = 0; i < count; i++) {
    const levelDb = 10 * Math.log10(buckets[i * BUCKET_VALUES + 2]! + 1e-12);
    const half = Math.max(0.5, middle * Math.min(1, Math.max(0, 1 - levelDb / FLOOR_DB) * 1.25));
    const x = ((i / Math.max(1, count - 1)) * WIDTH).toFixed(1);
    above += `L${x} ${(middle - half).toFixed(1)}`;
    below = `L${x} ${(middle + half).toFixed(1)}${below}`;
  }
  return `M0 ${middle}${above}${below}Z`;
}
