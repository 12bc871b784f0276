import type { DeliveryTarget } from '@euphonos/engine';
import { Moon, Server, Sun } from 'lucide-react';
import { useState } from 'react';
import { NavLink, useMatch } from 'react-router';
import { setMinus } from '../components/figures.js';
import { activeTrack } from '../store/session-slice.js';
import { useApp } from '../store/store.js';
import { isTaken } from '../views/survey/is-taken.js';
import { useFindings, useSurvey } from '../views/survey/use-survey.js';
import { isEngineer, isOwner } from '../store/who-slice.js';
import { Here } from './here.js';
import { PersonMenu } from './person-menu.js';
import { Help } from './help.js';
import { useKeys } from './use-keys.js';
import { SaveState } from './save-state.js';
import { turnPage, useTheme } from './theme.js';

/** The way of working is the navigation; each step says in a word where it stands. */
/** The level that is asked for. */
const levelWords = ({ integratedLufs, rmsDbfs }: DeliveryTarget): string =>
  integratedLufs !== null ? `${integratedLufs} LUFS` : rmsDbfs ? `RMS ${rmsDbfs[0]} … ${rmsDbfs[1]}` : 'level as it is';

export function TopBar() {
  const theme = useTheme();
  const engineer = useApp(({ who }) => isEngineer(who));
  const owner = useApp(({ who }) => isOwner(who));
  const [help, setHelp] = useState(false);
  const inSession = useMatch('/sessions/:id/*');
  const session = useApp((state) => state.session);
  const id = inSession?.params.id;
  useKeys('shift_? ?', () => setHelp(true));
  const treatments = activeTrack(session)?.chain.treatments ?? [];
  const active = treatments.filter(({ bypassed }) => !bypassed).length;
  const target = session?.history?.present.target;
  return (
    <header className="flex h-[52px] shrink-0 items-center gap-6 border-b border-line px-5">
      <NavLink to="/" className="font-serif text-[20px] font-semibold text-ink no-underline">
        Euphonos
      </NavLink>
      {id && session && (
        <span className="max-w-[220px] truncate text-soft" title={session.name}>
          {session.name}
        </span>
      )}
      <nav aria-label="Steps" className="flex h-full items-stretch gap-1">
        <Step to="/" title={engineer ? 'Intake' : 'Sessions'} end />
        {!id && engineer && <Step to="/sound-check" title="Sound check" />}
        {!id && engineer && <Step to="/batches" title="Batches" />}
        {id && session?.history && session.may === 'hear' && <TalkStep id={id} />}
        {id && session?.history && session.may === 'change' && (
          <>
            <SurveyStep id={id} recordingId={activeTrack(session)?.reel[0]?.recordingId ?? session.recording.id} />
            <Step to={`/sessions/${id}/treat`} title="Treat" note={`${active} of ${treatments.length} on`} />
            <Step
              to={`/sessions/${id}/balance`}
              title="Balance"
              note={`${session.history.present.tracks.length === 1 ? '1 track' : `${session.history.present.tracks.length} tracks`}`}
            />
            <Step to={`/sessions/${id}/hand-over`} title="Hand over" note={target ? setMinus(levelWords(target)) : undefined} />
            <TalkStep id={id} />
          </>
        )}
      </nav>
      <div className="ml-auto flex items-center gap-3">
        <Here />
        {id && session?.may === 'change' && <SaveState />}
        {!id && owner && (
          <NavLink
            to="/state"
            className={({ isActive }) => `rounded-sheet p-1 hover:text-ink ${isActive ? 'text-ink' : 'text-soft'}`}
            aria-label="State of the server"
            title="State of the server: room, work, what failed, last backup"
          >
            <Server size={16} />
          </NavLink>
        )}
        <button
          type="button"
          className="rounded-sheet p-1 text-soft hover:text-ink"
          onClick={turnPage}
          aria-label={theme === 'day' ? 'Evening page' : 'Day page'}
          title={theme === 'day' ? 'Evening page, for dark rooms' : 'Day page'}
        >
          {theme === 'day' ? <Moon size={16} /> : <Sun size={16} />}
        </button>
        <button type="button" className="key hover:text-ink" onClick={() => setHelp(true)} aria-label="Keys">
          ?
        </button>
        <PersonMenu />
      </div>
      <Help open={help} onClose={() => setHelp(false)} />
    </header>
  );
}

/** What people say of it. */
function TalkStep({ id }: { readonly id: string }) {
  const talk = useApp((state) => state.talk.talk);
  const revision = useApp(({ session }) => session?.revision);
  const open = talk?.comments.filter(({ resolved }) => !resolved).length ?? 0;
  const words = talk?.acceptances.filter((one) => one.revision === revision) ?? [];
  const word = words.length === 0 ? '' : words.every(({ accepted }) => accepted) ? 'good' : 'not yet';
  return <Step to={`/sessions/${id}/talk`} title="Talk" note={[open > 0 ? `${open} open` : '', word].filter(Boolean).join(', ')} />;
}

/** Survey, with what it found. */
function SurveyStep({ id, recordingId }: { readonly id: string; readonly recordingId: string }) {
  const { view } = useSurvey(recordingId);
  const track = useApp(({ session }) => activeTrack(session));
  const left = useFindings()?.filter(({ suggestion }) => suggestion !== null && track !== null && !isTaken(track, suggestion)).length;
  const state = view?.job.state;
  const note =
    left !== undefined
      ? left === 0
        ? 'nothing to mend'
        : `${left} to mend`
      : state === 'running'
        ? `${Math.round(view!.job.progress * 100)} %`
        : state === 'failed'
          ? 'failed'
          : '';
  return <Step to={`/sessions/${id}/survey`} title="Survey" note={note} />;
}

function Step({
  to,
  title,
  note,
  end = false,
}: {
  readonly to: string;
  readonly title: string;
  readonly note?: string;
  readonly end?: boolean;
}) {
  return (
    <NavLink
      to={to}
      end={end}
      className={({ isActive }) =>
        `flex items-center gap-2 border-b-[3px] px-3 pt-[3px] no-underline ${isActive ? 'border-ink font-semibold text-ink' : 'border-transparent text-ink hover:border-line'}`
      }
    >
      {title}
      {note && <span className="text-[12px] font-normal text-soft">{note}</span>}
    </NavLink>
  );
}
