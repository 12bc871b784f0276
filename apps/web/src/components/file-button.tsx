import { FileUp } from 'lucide-react';
import { useRef } from 'react';

interface Props {
  readonly words: string;
  readonly label: string;
  readonly onFile: (file: File) => void;
  /** Endings and types that can be chosen; left out, JSON. */
  readonly accept?: string;
}

/** A button that lets a file be chosen. */
export function FileButton({ words, label, onFile, accept = '.json,application/json' }: Props) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <div className="pt-3 text-[12px] text-soft">
      <button type="button" className="press flex items-center gap-1.5 text-ink" onClick={() => input.current!.click()}>
        <FileUp size={13} /> {words}
      </button>
      <input
        ref={input}
        type="file"
        accept={accept}
        className="hidden"
        aria-label={label}
        onChange={({ target }) => {
          const [file] = target.files ?? [];
          target.value = '';
          if (file) onFile(file);
        }}
      />
    </div>
  );
}

/** What a file of the user holds. Rejects in words when it is no JSON. */
export async function jsonOf(file: File, ending: string): Promise<unknown> {
  try {
    return JSON.parse(await file.text());
  } catch {
    throw new Error(`"${file.name}" is not JSON; a ${ending} is. Nothing was kept.`);
  }
}
