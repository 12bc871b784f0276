import type { RecordingCue } from '@euphonos/contracts';
import { clipEnd, marksAsCsv, marksAsVtt, marksFromCsv, marksFromVtt, offsetOf, partAt, type Mark } from '@euphonos/engine';
import { toast } from 'sonner';
import { getCues } from '../../../api/client.js';
import { FileButton } from '../../../components/file-button.js';
import { saveText } from '../../../components/save-text.js';
import { edited } from '../../../store/session-slice.js';
import { useApp, useAppDispatch } from '../../../store/store.js';

/** Ten thousand marks with long notes. */
const MOST_BYTES = 16 << 20;

/** Marks as files: a table or cues, written for whoever works on, and read from them. */
export function MarkFiles({ marks, sampleRateHz }: { readonly marks: readonly Mark[]; readonly sampleRateHz: number }) {
  const name = useApp(({ session }) => session!.name);
  const tracks = useApp(({ session }) => session!.history!.present.tracks);
  const dispatch = useAppDispatch();
  const read = async (file: File): Promise<void> => {
    try {
      if (file.size > MOST_BYTES) throw new Error(`It is larger than ${MOST_BYTES >> 20} MB; files of marks are not.`);
      const text = await file.text();
      const found = (/\.vtt$/i.test(file.name) || text.startsWith('WEBVTT') ? marksFromVtt : marksFromCsv)(text, sampleRateHz);
      if (found.length === 0) return void toast(`"${file.name}" holds no marks.`);
      dispatch(edited({ type: 'add-marks', marks: found.map((one) => ({ ...one, id: crypto.randomUUID() })) }));
      toast(found.length === 1 ? '1 mark read.' : `${found.length} marks read.`);
    } catch (error) {
      toast.error(`"${file.name}": ${error instanceof Error ? error.message : String(error)} Nothing was added.`);
    }
  };
  /** Marks that the files of the tracks brought along, where these sound. */
  const takeAlong = async (): Promise<void> => {
    try {
      const marks: Mark[] = [];
      const cues = new Map<string, readonly RecordingCue[]>();
      for (const track of tracks)
        for (const clip of track.clips) {
          const part = partAt(track.reel, clip.source.startFrame);
          if (!cues.has(part.recordingId)) cues.set(part.recordingId, await getCues(part.recordingId));
          for (const { atSeconds, seconds, name: said, note } of cues.get(part.recordingId)!) {
            const frame = part.startFrame + Math.round(atSeconds * sampleRateHz);
            if (frame < clip.source.startFrame || frame >= clip.source.endFrame) continue;
            const startFrame = frame - offsetOf(clip);
            const endFrame = seconds === null ? null : Math.min(clipEnd(clip), startFrame + Math.round(seconds * sampleRateHz));
            marks.push({
              id: crypto.randomUUID(),
              name: said,
              startFrame,
              endFrame: endFrame !== null && endFrame > startFrame ? endFrame : null,
              note,
            });
          }
        }
      if (marks.length === 0) return void toast('The recordings brought no marks along.');
      dispatch(edited({ type: 'add-marks', marks }));
      toast(marks.length === 1 ? '1 mark taken.' : `${marks.length} marks taken.`);
    } catch (error) {
      toast.error(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <div className="mt-2 flex items-end gap-2 border-t border-line pt-1 text-[12px]">
      <FileButton words="Read marks" label="Marks file" accept=".csv,.tsv,.txt,.vtt,text/csv,text/vtt" onFile={(file) => void read(file)} />
      <button
        type="button"
        className="press text-[12px]"
        title="Cue points that WAV files of this session came with"
        onClick={() => void takeAlong()}
      >
        From the files
      </button>
      {marks.length > 0 && (
        <span className="flex gap-2 text-soft">
          write as
          <button
            type="button"
            className="text-ink underline decoration-dotted"
            title="A table: start, end, name, note; exact to the sample"
            onClick={() => saveText(`${name}, marks.csv`, marksAsCsv(marks, sampleRateHz), 'text/csv')}
          >
            CSV
          </button>
          <button
            type="button"
            className="text-ink underline decoration-dotted"
            title="Cues, to the millisecond"
            onClick={() => saveText(`${name}, marks.vtt`, marksAsVtt(marks, sampleRateHz), 'text/vtt')}
          >
            WebVTT
          </button>
        </span>
      )}
    </div>
  );
}
