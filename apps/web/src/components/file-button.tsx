import { EngineError, readForeignJson } from '@euphonos/engine';
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

const MOST_BYTES = 64 << 20;

/** What a file of the user holds. Rejects in words when it is no JSON, or more than any such file. */
export async function jsonOf(file: File, ending: string): Promise<unknown> {
  try {
    // Its size is known before any of it is read.
    return readForeignJson(new Uint8Array(await (file.size > MOST_BYTES ? file.slice(0, MOST_BYTES + 1) : file).arrayBuffer()), {
      mostBytes: MOST_BYTES,
    });
  } catch (error) {
    if (error instanceof EngineError && error.code !== 'json-broken')
      throw new Error(`"${file.name}" cannot be read. ${error.message} Nothing was kept.`, { cause: error });
    throw new Error(`"${file.name}" is not JSON; a ${ending} is. Nothing was kept.`);
  }
}
