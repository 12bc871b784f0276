import { IsBoolean, IsIn, IsInt, IsNumber, IsOptional, IsString, Max, Min } from 'class-validator';
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

  /** Other sound tracks and subtitles of the picture go along; left out, yes. */
  @IsOptional()
  @IsBoolean()
  keepOthers?: boolean;
}

/** POST /api/sessions/:id/stems */
export class StartStems {
  /** The revision to render. */
  @IsInt()
  @Min(0)
  revision!: number;
}

/** POST /api/sessions/:id/pieces */
export class StartPieces {
  /** The revision to render. */
  @IsInt()
  @Min(0)
  revision!: number;

  /** A file for each clip; or one for each recording, in the place of the file that it came as. */
  @IsIn(['clips', 'originals'])
  what!: 'clips' | 'originals';

  /** So much more before and behind each clip, as far as its recording goes. */
  @IsOptional()
  @IsNumber()
  @Min(0)
  @Max(60)
  handleSeconds?: number;
}

/** What is rendered for an editor, without a target: a clip with handles, or a recording in the place of the file that it came as. */
export interface PieceView {
  readonly of: 'clip' | 'original';
  /** Where in its recording it begins, in seconds; its length. */
  readonly fromSeconds: number;
  readonly seconds: number;
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
  /** Which kind of piece it is; null for deliveries and stems. */
  readonly piece: PieceView | null;
  readonly createdAt: string;
  readonly job: JobView;
  readonly report: RenderReport | null;
}
