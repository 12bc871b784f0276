import { IsBoolean, IsInt, IsOptional, IsString, Min } from 'class-validator';
import type { SoundFigures } from '@euphonos/dsp';
import type { CheckLine, DeliveryTarget, LevelWork } from '@euphonos/engine';
import type { JobView } from './jobs.js';

/** POST /api/sessions/:id/renders */
export class StartRender {
  /** The revision to render: what was saved, and nothing that came after. */
  @IsInt()
  @Min(0)
  revision!: number;

  /** The track to render by itself; without it, or for "whole", the mix of all tracks that are not muted. */
  @IsOptional()
  @IsString()
  trackId?: string;

  /** Puts the sound back into the picture that the recording came with, in the place of its own sound. */
  @IsOptional()
  @IsBoolean()
  intoPicture?: boolean;
}

/** POST /api/sessions/:id/stems */
export class StartStems {
  /** The revision to render. */
  @IsInt()
  @Min(0)
  revision!: number;
}

export interface RenderReport {
  readonly lines: readonly CheckLine[];
  readonly work: LevelWork;
  readonly before: SoundFigures;
  readonly after: SoundFigures;
  /** Short-term loudness over time, LUFS, evenly spaced from 3 s on; -100 stands for silence. */
  readonly loudnessBefore: readonly number[];
  readonly loudnessAfter: readonly number[];
  readonly loudnessStepSeconds: number;
}

export interface RenderView {
  readonly id: string;
  readonly sessionId: string;
  readonly revision: number;
  readonly target: DeliveryTarget;
  readonly fileName: string;
  /** A track as it is in the mix, without a target. */
  readonly stem: boolean;
  readonly createdAt: string;
  readonly job: JobView;
  readonly report: RenderReport | null;
}
