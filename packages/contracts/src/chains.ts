import { IsBoolean, IsObject, IsOptional, IsString, Length } from 'class-validator';
import type { ChainFile } from '@euphonos/engine';

export const MAX_CHAIN_NAME_LENGTH = 120;
export const MAX_CHAIN_NOTE_LENGTH = 500;

/** POST /api/chains: keeps a chain. Its name is in the file. */
export class KeepChain {
  /** Read in full by parseChainFile of @euphonos/engine. */
  @IsObject()
  file!: ChainFile;
}

/** PATCH /api/chains/:id */
export class ChangeChain {
  @IsOptional()
  @IsString()
  @Length(1, MAX_CHAIN_NAME_LENGTH)
  name?: string;

  @IsOptional()
  @IsString()
  @Length(0, MAX_CHAIN_NOTE_LENGTH)
  note?: string;

  /** Other settings under the same name. */
  @IsOptional()
  @IsObject()
  file?: ChainFile;

  /** Every recording that comes in gets it, in the place of the usual one; one chain at a time. */
  @IsOptional()
  @IsBoolean()
  forNew?: boolean;
}

/** A chain that was kept under a name. */
export interface ChainView {
  readonly id: string;
  readonly file: ChainFile;
  readonly forNew: boolean;
  readonly updatedAt: string;
}
