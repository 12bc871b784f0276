import { toast } from 'sonner';
import { keepCover } from '../../api/client.js';
import { FileButton } from '../../components/file-button.js';
import { edited } from '../../store/session-slice.js';
import { useApp, useAppDispatch } from '../../store/store.js';

/** The picture that files have which hold one (MP3, M4A, FLAC); without one of its own, that of the recording. */
export function CoverField() {
  const cover = useApp(({ session }) => session!.history!.present.cover);
  const dispatch = useAppDispatch();
  const take = (file: File): void =>
    void keepCover(file).then(
      (kept) => dispatch(edited({ type: 'set-cover', cover: kept })),
      (error: Error) => toast.error(error.message),
    );
  return (
    <div
      className="mb-2 flex items-center gap-3"
      title="MP3, M4A and FLAC hold a picture; without one of its own a file has that of its recording"
    >
      {cover && <img alt="Cover" src={`/api/covers/${cover.sha256}`} className="size-12 rounded-sheet border border-line object-cover" />}
      <div className="-mt-3">
        <FileButton words={cover ? 'Another cover' : 'Choose a cover'} label="Cover" accept="image/jpeg,image/png" onFile={take} />
      </div>
      {cover && (
        <button
          type="button"
          className="text-[12px] text-soft hover:text-ink"
          onClick={() => dispatch(edited({ type: 'set-cover', cover: null }))}
        >
          as the recording has it
        </button>
      )}
    </div>
  );
}
