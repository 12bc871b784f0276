import { useMemo, useRef, useState } from 'react';
import { useKeys } from '../../shell/use-keys.js';
import { changed } from '../../store/listening-slice.js';
import { activeTrack } from '../../store/session-slice.js';
import { useApp, useAppDispatch } from '../../store/store.js';
import { useFrameLoop } from '../../workbench/use-frame-loop.js';
import { useWorkbench } from '../../workbench/workbench-context.js';
import { Follower } from './follow.js';
import { pictureSource, type PictureSource } from './picture-source.js';

/** The moving picture that a recording came with: small, without its sound, where the playhead is. Nothing for sound alone. */
export function Picture() {
  const recordings = useApp(({ session }) => session!.recordings);
  const { tracks, sampleRateHz } = useApp(({ session }) => session!.history!.present);
  const active = useApp(({ session }) => activeTrack(session))!;
  const shown = useApp(({ listening }) => listening.pictureShown);
  const dispatch = useAppDispatch();
  const source = useMemo(() => pictureSource(recordings, tracks, active, sampleRateHz), [recordings, tracks, active, sampleRateHz]);
  useKeys('shift_v', () => source && dispatch(changed({ pictureShown: !shown })));
  if (!source) return null;
  return (
    <section aria-label="Picture" className="shrink-0 border-t border-line px-4 py-2">
      <div className="flex items-baseline gap-2 text-[12px] text-soft">
        <span className="truncate">{source.fileName}</span>
        {shown && !source.ready && (
          <span className={source.problem ? 'min-w-0 truncate text-removed' : 'shrink-0'} title={source.problem ?? undefined}>
            {source.problem ?? 'a small copy is made …'}
          </span>
        )}
        <button type="button" className="ml-auto shrink-0 hover:text-ink" onClick={() => dispatch(changed({ pictureShown: !shown }))}>
          {shown ? 'hide' : 'show the picture'} <span className="key">⇧V</span>
        </button>
      </div>
      {shown && source.ready && <Shown key={source.recordingId} source={source} />}
    </section>
  );
}

function Shown({ source }: { readonly source: PictureSource }) {
  const workbench = useWorkbench();
  const speed = useApp(({ listening }) => listening.speed);
  const video = useRef<HTMLVideoElement>(null);
  const [follower] = useState(() => new Follower());
  const [trouble, setTrouble] = useState(false);
  const [dark, setDark] = useState(false);
  useFrameLoop(() => {
    const picture = video.current;
    if (!picture || picture.readyState < HTMLMediaElement.HAVE_METADATA) return;
    const { player, scrubbedFrame } = workbench;
    const wanted = source.secondsAt(scrubbedFrame ?? player.frame);
    setDark(wanted === null);
    const running = player.playing && scrubbedFrame === null && wanted !== null;
    if (running && picture.paused) void picture.play().catch(() => undefined);
    if (!running && !picture.paused) picture.pause();
    if (wanted === null) return;
    const { seekTo, rate } = follower.step({ wanted, shown: picture.currentTime, playing: running, speed, seeking: picture.seeking });
    if (picture.playbackRate !== rate) picture.playbackRate = rate;
    if (seekTo !== undefined) picture.currentTime = Math.min(seekTo, picture.duration);
  });
  if (trouble)
    return <p className="m-0 py-1 text-[12px] text-removed">This browser cannot show the picture; the sound is not touched by that.</p>;
  return (
    <video
      ref={video}
      muted
      playsInline
      preload="auto"
      disablePictureInPicture
      tabIndex={-1}
      aria-label={`Picture of ${source.fileName}`}
      data-picture={source.recordingId}
      src={`/api/recordings/${source.recordingId}/picture`}
      className={`mt-1 block max-h-[168px] w-full rounded-sheet bg-ink/10 object-contain ${dark ? 'opacity-20' : ''}`}
      onError={() => setTrouble(true)}
    />
  );
}
