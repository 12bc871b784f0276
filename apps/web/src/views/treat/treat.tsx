import { ClipRow } from './clips/clip-row.js';
import { useClipKeys } from './clips/use-clip-keys.js';
import { ChainColumn } from './chain/chain-column.js';
import { CommentLane } from '../talk/comment-lane.js';
import { TrackHead } from './track-head.js';
import { Overview } from './overview.js';
import { PassageRow } from './passage-row.js';
import { Strips } from './strips.js';
import { TimeAxis } from './time-axis.js';
import { Lanes } from './lanes/lanes.js';
import { useApp } from '../../store/store.js';
import { useTreatKeys } from './use-treat-keys.js';

/** The recording as it came, what is taken out of it, what remains; beside it the chain that does so. */
export function Treat() {
  useTreatKeys();
  const several = useApp(({ session }) => session!.history!.present.tracks.length > 1);
  useClipKeys();
  return (
    <main className="flex min-h-0 grow">
      <div className="flex min-w-0 grow flex-col gap-2 px-5 pt-3 pb-1.5">
        <TrackHead />
        {several ? <Lanes /> : <Overview />}
        <PassageRow />
        <ClipRow />
        <CommentLane rows={2} cards />
        <Strips />
        <TimeAxis />
      </div>
      <ChainColumn />
    </main>
  );
}
