import type { ProfileView } from '@euphonos/contracts';
import { profileToFile } from '@euphonos/dsp';
import { noiseSpans, type Track } from '@euphonos/engine';
import { format } from 'date-fns';
import { Download, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { Dialog } from '../../components/dialog.js';
import { FileButton } from '../../components/file-button.js';
import { NameField } from '../../components/name-field.js';
import { channelWord, formatRate } from '../../components/figures.js';
import { changed } from '../../store/listening-slice.js';
import { edited } from '../../store/session-slice.js';
import { useApp, useAppDispatch } from '../../store/store.js';
import { useProfile, useWorkbench } from '../../workbench/workbench-context.js';
import { useProfiles } from './use-profiles.js';

interface Props {
  readonly open: boolean;
  readonly track: Track;
  readonly onClose: () => void;
}

/** Noise profiles as things with names: the present one is kept, one that was kept is used, compared, handed on. */
export function ProfilesDialog({ open, track, onClose }: Props) {
  const session = useApp((state) => state.session)!;
  const compared = useApp(({ listening }) => listening.comparedProfile);
  const dispatch = useAppDispatch();
  const { profiles, keep, read, rename, remove } = useProfiles(open, session.id);
  const use = ({ id, name }: ProfileView): void => {
    dispatch(edited({ type: 'set-noise', trackId: track.id, noise: { kind: 'kept', profileId: id, name } }));
    onClose();
  };
  const compare = ({ id, name }: ProfileView): void => {
    dispatch(changed({ comparedProfile: compared?.id === id ? null : { id, name } }));
    onClose();
  };
  return (
    <Dialog open={open} title="Noise profiles" onClose={onClose}>
      <Keep track={track} onKeep={keep} />
      <ul className="m-0 list-none border-b border-faint p-0" aria-label="Kept profiles">
        {profiles?.map((profile) => (
          <Line
            key={profile.id}
            profile={profile}
            here={profile.sessionId === session.id}
            used={track.noise?.kind === 'kept' && track.noise.profileId === profile.id}
            compared={compared?.id === profile.id}
            onUse={() => use(profile)}
            onCompare={() => compare(profile)}
            onRename={(name) => void rename(profile.id, name)}
            onRemove={() => void remove(profile.id)}
          />
        ))}
      </ul>
      {profiles?.length === 0 && (
        <p className="text-soft">
          None is kept yet. Keep the one of a room that you will work in again: it serves other recordings, also of another sample rate.
        </p>
      )}
      <FileButton words="Read a profile from a file" label="Profile file" onFile={(file) => void read(file)} />
    </Dialog>
  );
}

/** Gives the profile that weighs now a name. */
function Keep({ track, onKeep }: { readonly track: Track; readonly onKeep: (file: unknown) => Promise<void> }) {
  const profile = useProfile();
  const session = useApp((state) => state.session)!;
  const { sampleRateHz } = useWorkbench();
  const [name, setName] = useState('');
  if (!profile || track.noise?.kind !== 'passages') return null;
  const spans = noiseSpans(track).map(
    ({ startFrame, endFrame }) => `${(startFrame / sampleRateHz).toFixed(2)} to ${(endFrame / sampleRateHz).toFixed(2)} s`,
  );
  return (
    <form
      className="mb-3 flex items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        void onKeep(profileToFile(profile, name.trim() || `${session.name}, room`, `${session.recording.fileName}, ${spans.join(', ')}`));
        setName('');
      }}
    >
      <input
        aria-label="Name of the profile"
        className="min-w-0 grow rounded-sheet border border-line bg-paper px-2 py-1"
        placeholder={`${session.name}, room`}
        maxLength={120}
        value={name}
        onChange={({ target }) => setName(target.value)}
      />
      <button type="submit" className="press-strong shrink-0 py-1!">
        Keep the present profile
      </button>
    </form>
  );
}

interface LineProps {
  readonly profile: ProfileView;
  readonly here: boolean;
  readonly used: boolean;
  readonly compared: boolean;
  readonly onUse: () => void;
  readonly onCompare: () => void;
  readonly onRename: (name: string) => void;
  readonly onRemove: () => void;
}

function Line({ profile, here, used, compared, onUse, onCompare, onRename, onRemove }: LineProps) {
  const { id, name, takenFrom, sampleRateHz, channels, usedBy, createdAt } = profile;
  return (
    <li className="border-t border-faint py-1.5" data-profile-line={name}>
      <div className="flex items-center gap-2">
        <NameField name={name} onRename={onRename} />
        <button type="button" className="press px-2! py-0!" disabled={used} onClick={onUse}>
          {used ? 'In use' : 'Use'}
        </button>
        <button
          type="button"
          aria-pressed={compared}
          className={`press px-2! py-0! ${compared ? 'border-focus! text-focus!' : ''}`}
          title="Draws it beside the present one"
          onClick={onCompare}
        >
          Compare
        </button>
        <a
          href={`/api/profiles/${id}/file`}
          download
          aria-label={`Download ${name}`}
          title="As a JSON file"
          className="text-soft hover:text-ink"
        >
          <Download size={14} />
        </a>
        <button type="button" aria-label={`Delete ${name}`} className="text-soft hover:text-removed" onClick={onRemove}>
          <Trash2 size={14} />
        </button>
      </div>
      <p className="m-0 px-1 text-[12px] text-soft">
        {here ? 'Of this session · ' : ''}
        {takenFrom || 'no origin is known'} · {formatRate(sampleRateHz)} {channelWord(channels)} · {format(createdAt, 'd MMM')}
        {usedBy > 0 ? ` · used by ${usedBy === 1 ? 'a session' : `${usedBy} sessions`}` : ''}
      </p>
    </li>
  );
}
