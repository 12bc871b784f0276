import { notInOtio, timelineAsOtio, timelineFromOtio } from '@euphonos/engine';
import { asPlaced } from '@euphonos/contracts';
import { FileArchive, FileDown } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { FileButton, jsonOf } from '../../components/file-button.js';
import { Notice } from '../../components/notice.js';
import { saveText } from '../../components/save-text.js';
import { edited } from '../../store/session-slice.js';
import { useApp, useAppDispatch } from '../../store/store.js';

const HANDLE_SECONDS = 1;

interface Props {
  readonly busy: boolean;
  readonly onPieces: (what: 'clips' | 'originals', handleSeconds: number) => void;
}

/** What goes on elsewhere: files for an editor, the session as a timeline and back, and as a bundle with all that it is made of. */
export function Onward({ busy, onPieces }: Props) {
  const session = useApp((state) => state.session)!;
  const document = session.history!.present;
  const dispatch = useAppDispatch();
  const [told, setTold] = useState<readonly string[]>([]);
  const files = session.recordings.map(({ id, fileName, sha256 }) => ({ recordingId: id, fileName, sha256 }));
  const left = notInOtio(document);

  const write = (): void => {
    saveText(`${session.name}.otio`, `${JSON.stringify(timelineAsOtio(document, session.name, files), null, 1)}\n`, 'application/json');
    setTold(left.length === 0 ? [] : ['Elsewhere it is not heard, here it comes back:', ...left]);
  };
  const read = async (file: File): Promise<void> => {
    try {
      const recordings = session.recordings
        .filter(({ facts }) => facts !== null)
        .map((one) => ({ ...asPlaced(one), fileName: one.fileName, sha256: one.sha256 }));
      const { parts, notes, missing } = timelineFromOtio(await jsonOf(file, 'timeline'), document, recordings);
      dispatch(edited({ type: 'take-timeline', name: file.name, ...parts }));
      setTold([
        ...missing.map((name) => `"${name}" is none of the recordings of this session: bring it in, then read the timeline again.`),
        ...notes,
      ]);
      toast(`${file.name} read; Ctrl Z undoes it.`);
    } catch (error) {
      toast.error(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <section aria-label="To other programs" className="mt-6 border-t border-line pt-2">
      <h2 className="m-0 mb-1 text-[16px]">To other programs, and back</h2>
      <div className="flex flex-wrap items-end gap-2 text-[13px]">
        <button
          type="button"
          className="press flex items-center gap-1.5"
          title="Clips, gaps, crossfades, gains and marks as OpenTimelineIO; all else goes along as metadata and comes back with it"
          onClick={write}
        >
          <FileDown size={14} /> Write the timeline
        </button>
        <button
          type="button"
          className="press"
          disabled={busy}
          title={`Each clip with ${HANDLE_SECONDS} s more before and behind it, as far as its recording goes; level and fades stay with the editor`}
          onClick={() => onPieces('clips', HANDLE_SECONDS)}
        >
          Render a file a clip
        </button>
        <button
          type="button"
          className="press"
          disabled={busy}
          title="Each recording as a whole, cleaned, under the name, in the format and as long as it came: exchanged for it, every edit elsewhere stays"
          onClick={() => onPieces('originals', 0)}
        >
          Render in place of the originals
        </button>
        <FileButton
          words="Read a timeline"
          label="Timeline file"
          accept=".otio,.json,application/json"
          onFile={(file) => void read(file)}
        />
        <a
          className="press flex items-center gap-1.5 no-underline"
          href={`/api/sessions/${session.id}/bundle`}
          download
          title="The session with its recordings, profiles, chains and versions as one zip; it renders the same bytes wherever it is brought in"
        >
          <FileArchive size={14} /> Bundle with all recordings
        </a>
      </div>
      {told.length > 0 && (
        <div className="mt-2" data-told>
          <Notice tone="word">{told.join(' ')}</Notice>
        </div>
      )}
    </section>
  );
}
