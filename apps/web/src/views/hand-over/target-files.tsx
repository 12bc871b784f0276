import { requireTarget, type DeliveryTarget } from '@euphonos/engine';
import { FileDown } from 'lucide-react';
import { toast } from 'sonner';
import { FileButton, jsonOf } from '../../components/file-button.js';
import { saveText } from '../../components/save-text.js';

interface Props {
  readonly target: DeliveryTarget;
  readonly onRead: (target: DeliveryTarget) => void;
}

/** A target as a file: written for the next one who works on this, read from whoever asks for it. The command line reads the same. */
export function TargetFiles({ target, onRead }: Props) {
  const write = (): void => saveText(`${target.name}.target.json`, `${JSON.stringify(target, null, 2)}\n`, 'application/json');
  const read = async (file: File): Promise<void> => {
    try {
      const json = await jsonOf(file, 'target');
      if (typeof json !== 'object' || json === null) throw new Error(`"${file.name}" holds no target. Nothing was changed.`);
      onRead(requireTarget(json));
    } catch (error) {
      toast.error(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <div className="flex items-end gap-2">
      <button type="button" className="press flex items-center gap-1.5 text-[12px]" onClick={write}>
        <FileDown size={13} /> Write as JSON
      </button>
      <FileButton words="Read a target" label="Target file" onFile={(file) => void read(file)} />
    </div>
  );
}
