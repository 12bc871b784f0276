import { Injectable } from '@nestjs/common';
import type { SecondStepBegun } from '@euphonos/contracts';
import { DataSource } from 'typeorm';
import { AppProblem } from '../problems/app-problem.js';
import type { Asker } from '../rights/asker.js';
import { codeAddress, newCodeSecret, stepOfCode } from './one-time-code.js';

const wrongCode = (status: number): AppProblem =>
  new AppProblem(
    status,
    'wrong-code',
    'That is not the code of this moment, or it was taken already. Wait for the next one; is the clock of the device right?',
  );

/** A code from a device of one's own, beside the password. */
@Injectable()
export class SecondStepService {
  constructor(private readonly dataSource: DataSource) {}

  /** A secret to be shown once; nothing holds until a code of it was given. */
  async begin({ personId, email }: Asker): Promise<SecondStepBegun> {
    const secret = newCodeSecret();
    await this.dataSource.query('UPDATE person SET code_pending = $2 WHERE id = $1', [personId, secret]);
    return { secret, address: codeAddress(email, secret) };
  }

  /** From now on codes are asked for. @throws {AppProblem} `wrong-code` */
  async confirm({ personId }: Asker, code: string): Promise<void> {
    const [{ code_pending: secret }] = (await this.dataSource.query('SELECT code_pending FROM person WHERE id = $1', [personId])) as [
      { code_pending: string | null },
    ];
    const step = secret === null ? null : stepOfCode(code, secret);
    if (step === null) throw wrongCode(403);
    await this.dataSource.query('UPDATE person SET code_secret = code_pending, code_pending = NULL, code_step = $2 WHERE id = $1', [
      personId,
      step,
    ]);
  }

  async remove(personId: string): Promise<void> {
    await this.dataSource.query('UPDATE person SET code_secret = NULL, code_pending = NULL WHERE id = $1', [personId]);
  }

  async isSet(personId: string): Promise<boolean> {
    const [row] = (await this.dataSource.query('SELECT code_secret IS NOT NULL AS set FROM person WHERE id = $1', [personId])) as {
      set: boolean;
    }[];
    return row?.set ?? false;
  }

  /**
   * After the right password: the code, where one is asked for. Each is taken once.
   * @throws {AppProblem} `second-step` where none was given, `wrong-code`
   */
  async require(personId: string, code: string | undefined): Promise<void> {
    const [{ code_secret: secret }] = (await this.dataSource.query('SELECT code_secret FROM person WHERE id = $1', [personId])) as [
      { code_secret: string | null },
    ];
    if (secret === null) return;
    if (code === undefined) throw new AppProblem(401, 'second-step', 'The six digits that your device shows now, please.');
    const step = stepOfCode(code, secret);
    const [, taken] = (await this.dataSource.query('UPDATE person SET code_step = $2 WHERE id = $1 AND code_step < $2', [
      personId,
      step ?? -1,
    ])) as [unknown, number];
    if (taken !== 1) throw wrongCode(401);
  }
}
