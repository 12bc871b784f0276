import type { ParameterSpec } from '@euphonos/dsp';
import { setMinus, unitText } from './figures.js';
import { Ruler } from './ruler.js';

interface Props {
  readonly spec: ParameterSpec;
  readonly value: number;
  readonly measured?: { readonly value: number; readonly words: string } | undefined;
  readonly signed?: boolean;
  readonly onChange: (value: number) => void;
}

/** A parameter of a treatment on its ruler: all that is stated of it. */
export function ParameterRuler({ spec, value, measured, signed = false, onChange }: Props) {
  const { title, unit, min, max, step, scale, practice, sentence } = spec;
  return (
    <Ruler
      title={title}
      unit={unit === 'Q' || unit === 'count' ? '' : unit}
      min={min}
      max={max}
      step={step}
      scale={scale}
      usual={spec.default}
      practice={practice}
      measured={measured}
      signed={signed}
      sentence={setMinus(`${sentence} Usual: ${practice[0]} to ${practice[1]}${unitText(unit)}.`)}
      value={value}
      onChange={onChange}
    />
  );
}
