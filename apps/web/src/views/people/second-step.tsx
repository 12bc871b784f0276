import type { SecondStepBegun } from '@euphonos/contracts';
import { QRCodeSVG } from 'qrcode.react';
import { useEffect, useState, type FormEvent } from 'react';
import { toast } from 'sonner';
import { beginSecondStep, confirmSecondStep, hasSecondStep, removeSecondStep } from '../../api/who.js';
import { Field } from '../../components/field.js';

/** A code from a device of one's own, asked for beside the password: set up, or taken away. */
export function SecondStep({ onSet }: { readonly onSet?: () => void }) {
  const [isSet, setSet] = useState<boolean | null>(null);
  const [begun, setBegun] = useState<SecondStepBegun | null>(null);
  const [code, setCode] = useState('');
  const [trouble, setTrouble] = useState<string | null>(null);
  useEffect(() => void hasSecondStep().then(setSet, () => undefined), []);
  const told = (error: Error): void => void toast.error(error.message);
  const confirm = (event: FormEvent): void => {
    event.preventDefault();
    confirmSecondStep(code.trim()).then(
      () => {
        setSet(true);
        setBegun(null);
        setCode('');
        setTrouble(null);
        onSet?.();
        toast('From now on you are asked for a code of this device when you sign in.');
      },
      (error: Error) => setTrouble(error.message),
    );
  };
  if (isSet === null) return null;
  return (
    <section aria-labelledby="second-step" className="mt-7">
      <h2 id="second-step" className="m-0 text-[16px]">
        A second step
      </h2>
      <p className="m-0 mt-1 text-[13px] text-soft">
        {isSet
          ? 'When you sign in you are asked for the six digits that your device shows. An owner’s link for another password takes that away, too.'
          : 'Besides your password you are asked for six digits that a device of yours shows, others every half minute.'}
      </p>
      {isSet && (
        <button type="button" className="press mt-2" onClick={() => void removeSecondStep().then(() => setSet(false), told)}>
          Do without it
        </button>
      )}
      {!isSet && !begun && (
        <button type="button" className="press mt-2" onClick={() => void beginSecondStep().then(setBegun, told)}>
          Set it up
        </button>
      )}
      {begun && (
        <div className="mt-3 flex items-start gap-6">
          <div className="rounded-sheet border border-line bg-white p-2">
            <QRCodeSVG value={begun.address} size={152} title="For the device that makes codes" />
          </div>
          <form className="flex max-w-[340px] grow flex-col gap-3" onSubmit={confirm}>
            <p className="m-0 text-[13px]">
              Let the device read this, or type it there: <code className="text-[12px]">{begun.secret.match(/.{4}/g)!.join(' ')}</code>
            </p>
            <Field
              label="The six digits that it shows now"
              type="text"
              inputMode="numeric"
              autoComplete="one-time-code"
              value={code}
              onChange={setCode}
              autoFocus
            />
            {trouble && (
              <p role="alert" className="m-0 text-[13px] text-removed">
                {trouble}
              </p>
            )}
            <div className="flex gap-2">
              <button type="submit" className="press-strong" disabled={code.trim().length !== 6}>
                Ask for it from now on
              </button>
              <button type="button" className="press" onClick={() => setBegun(null)}>
                Leave it
              </button>
            </div>
          </form>
        </div>
      )}
    </section>
  );
}
