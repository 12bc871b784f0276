import { useRef, useState, type DragEvent, type ReactNode, type RefObject } from 'react';
import { toast } from 'sonner';
import { bringIn, bringInBundle, sessionGathered, type BringInto } from '../../api/client.js';
import { Notice } from '../../components/notice.js';
import { useKeys } from '../../shell/use-keys.js';
import { LeftUploads } from './left-uploads.js';
import { Several, type Way } from './several.js';

interface Sending {
  readonly key: number;
  readonly name: string;
  /** null while nobody answers. */
  readonly share: number | null;
  readonly trouble: string | null;
  /** Whoever gives it up says so. */
  readonly stop: AbortController;
}

let count = 0;

/** A session or a production as one file, from here or from another installation. */
const isBundle = ({ name }: File): boolean => /\.zip$/i.test(name);

/** Files on their way to the server, and how to send them. */
function useSending(onArrival: () => void) {
  const [files, setFiles] = useState<readonly Sending[]>([]);
  const change = (key: number, next: Partial<Sending> | null): void =>
    setFiles((list) =>
      next ? list.map((file) => (file.key === key ? { ...file, ...next } : file)) : list.filter((file) => file.key !== key),
    );
  /** One file; where it went, or null when it did not. */
  const sendOne = async (file: File, into: BringInto): Promise<string | null> => {
    const key = ++count;
    const stop = new AbortController();
    setFiles((before) => [...before, { key, name: file.name, share: 0, trouble: null, stop }]);
    try {
      const onShare = (share: number | null): void => change(key, { share });
      const sessionId = isBundle(file)
        ? (await bringInBundle(file, onShare, stop.signal)).sessionIds[0]!
        : (await bringIn(file, onShare, into, stop.signal)).sessionId;
      change(key, null);
      onArrival();
      return sessionId;
    } catch (error) {
      if (stop.signal.aborted) change(key, null);
      else change(key, { trouble: error instanceof Error ? error.message : String(error) });
      return null;
    }
  };
  const send = async (list: readonly File[], way: Way): Promise<void> => {
    let session: string | null = null;
    for (const file of list)
      if (way === 'apart' || isBundle(file)) await sendOne(file, {});
      else session = (await sendOne(file, session ? { session } : { placing: way })) ?? session;
    // What could be sent makes the session; the rest is told.
    if (session) await sessionGathered(session).then(onArrival, (error: Error) => toast.error(error.message));
  };
  return { files, send, drop: (key: number) => change(key, null) };
}

interface Props {
  readonly onArrival: () => void;
  /** What scrolls. */
  readonly scroll: RefObject<HTMLElement | null>;
  readonly children: ReactNode;
}

/** A page that files can be dropped on, with the way to choose them and the state of those on their way. */
export function BringIn({ onArrival, scroll, children }: Props) {
  const { files, send, drop } = useSending(onArrival);
  const [over, setOver] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const [asked, setAsked] = useState<readonly File[] | null>(null);
  useKeys('o', () => input.current?.click());
  const take = (list: readonly File[]): void => {
    // By name, with numbers as such: take 2 comes before take 10.
    if (list.length > 1) setAsked([...list].sort((a, b) => a.name.localeCompare(b.name, undefined, { numeric: true })));
    else void send(list, 'apart');
  };
  const onDrop = (event: DragEvent): void => {
    event.preventDefault();
    setOver(false);
    take([...event.dataTransfer.files]);
  };
  return (
    <main
      ref={scroll}
      className="min-h-0 grow overflow-auto"
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={(event) => event.currentTarget === event.target && setOver(false)}
      onDrop={onDrop}
    >
      <div className="mx-auto max-w-[1080px] px-5 py-7">
        <div className="mb-5 flex items-end justify-between gap-6">
          <div>
            <h1 className="m-0 text-[22px]">Recordings</h1>
            <p className="m-0 mt-1 text-soft">
              One becomes a session; of several you say what they become. The recordings themselves are never changed.
            </p>
          </div>
          <button type="button" className="press-strong shrink-0" onClick={() => input.current?.click()}>
            Bring in recordings <span className="key border-current! text-current! font-normal opacity-70">O</span>
          </button>
        </div>
        <input
          ref={input}
          type="file"
          multiple
          hidden
          aria-label="Files to bring in"
          accept="audio/*,video/mp4,video/quicktime,video/x-matroska,video/webm,.wav,.w64,.rf64,.bwf,.aif,.aiff,.flac,.mp3,.m4a,.aac,.ogg,.opus,.mka,.mkv,.mov,.zip"
          onChange={(event) => {
            take([...(event.target.files ?? [])]);
            event.target.value = '';
          }}
        />
        <div
          className={`mb-5 rounded-sheet border border-dashed px-4 py-3 text-soft ${over ? 'border-result bg-sheet text-result' : 'border-line'}`}
        >
          {over
            ? 'Let go: it is brought in.'
            : 'Or drop files here: WAV, AIFF, FLAC, MP3, M4A, Ogg, Opus, or the sound of MP4, MOV, MKV, WebM; 8 to 192 kHz. Bundles (zip), too.'}
        </div>
        <LeftUploads changes={files.length} onChoose={() => input.current?.click()} />
        <div className="mb-4 flex flex-col gap-2 empty:hidden">
          {files.map(({ key, name, share, trouble, stop }) =>
            trouble ? (
              <Notice
                key={key}
                tone="trouble"
                action={
                  <button type="button" className="press" onClick={() => drop(key)}>
                    Understood
                  </button>
                }
              >
                <b>{name}</b>: {trouble}
              </Notice>
            ) : (
              <Notice
                key={key}
                tone="word"
                action={
                  <button type="button" className="press" onClick={() => stop.abort()}>
                    Give it up
                  </button>
                }
              >
                {name}:{' '}
                {share === null
                  ? 'the server does not answer; it goes on from where it was when it does'
                  : `${Math.round(share * 100)} % sent`}
                <i className="mt-1 block h-[3px] bg-result" style={{ width: `${(share ?? 0) * 100}%` }} />
              </Notice>
            ),
          )}
        </div>
        {children}
        {asked && (
          <Several
            files={asked}
            onWay={(way) => {
              setAsked(null);
              void send(asked, way);
            }}
            onClose={() => setAsked(null)}
          />
        )}
      </div>
    </main>
  );
}
