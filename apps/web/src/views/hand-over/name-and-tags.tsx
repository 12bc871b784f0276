import {
  fileNameOf,
  formatFacts,
  LONGEST_PATTERN,
  LONGEST_TAG,
  namePlaces,
  requireNamePattern,
  tagKeys,
  USUAL_NAME,
  type DeliveryTarget,
} from '@euphonos/engine';
import { format } from 'date-fns';
import { useState } from 'react';
import { CoverField } from './cover-field.js';
import { edited } from '../../store/session-slice.js';
import { useApp, useAppDispatch } from '../../store/store.js';

const FIELD = 'w-full rounded-sheet border border-line bg-paper px-2 py-1 text-[13px]';
const TAG_TITLES = { title: 'Title', artist: 'By', album: 'Part of', date: 'Date', comment: 'Comment' } as const;

interface Props {
  readonly target: DeliveryTarget;
  readonly onChange: (part: Partial<DeliveryTarget>) => void;
}

/** How the file is called, and what it says of itself. */
export function NameAndTags({ target, onChange }: Props) {
  const session = useApp((state) => state.session)!;
  const { tags } = session.history!.present;
  const dispatch = useAppDispatch();
  const [draft, setDraft] = useState<string | null>(null);
  const pattern = draft ?? target.namePattern ?? '';
  let trouble: string | null = null;
  try {
    requireNamePattern(pattern);
  } catch (error) {
    trouble = (error as Error).message;
  }
  const keep = (): void => {
    if (draft === null || trouble) return;
    setDraft(null);
    if ((draft.trim() || null) !== target.namePattern) onChange({ namePattern: draft.trim() || null });
  };
  const example = trouble
    ? null
    : fileNameOf(pattern || null, {
        session: session.name,
        track: null,
        production: null,
        target: target.name,
        date: format(new Date(), 'yyyy-MM-dd'),
        number: 1,
      });
  return (
    <section aria-label="Name and tags" className="mt-3 border-t border-line pt-2">
      <div className="mb-1 font-semibold">Name and tags</div>
      <input
        aria-label="Pattern of the file name"
        className={FIELD}
        value={pattern}
        placeholder={USUAL_NAME}
        maxLength={LONGEST_PATTERN}
        aria-invalid={trouble !== null}
        onChange={({ target: { value } }) => setDraft(value)}
        onBlur={keep}
        onKeyDown={({ key }) => key === 'Enter' && keep()}
      />
      <div className="mt-0.5 mb-2 text-[12px] text-soft">
        {trouble ? (
          <span role="alert" className="text-removed">
            {trouble}
          </span>
        ) : (
          <span data-name-example title={`A pattern knows ${namePlaces.map((place) => `{${place}}`).join(', ')}`}>
            {example}.{formatFacts[target.file.format].ending}
          </span>
        )}
      </div>
      <CoverField />
      {tagKeys.map((key) => (
        <label key={key} className="mb-1 grid grid-cols-[70px_1fr] items-center gap-2">
          <span className="text-[13px] text-soft">{TAG_TITLES[key]}</span>
          <input
            key={tags[key]}
            className={FIELD}
            defaultValue={tags[key]}
            placeholder={key === 'title' ? 'as the file is called' : ''}
            maxLength={LONGEST_TAG}
            onBlur={({ target: { value } }) => {
              if (value !== tags[key]) dispatch(edited({ type: 'set-tags', tags: { ...tags, [key]: value } }));
            }}
          />
        </label>
      ))}
    </section>
  );
}
