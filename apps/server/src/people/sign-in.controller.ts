import { Body, Controller, Delete, Get, HttpCode, Inject, Param, ParseUUIDPipe, Post, Put, Req, Res } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import {
  ChangePassword,
  GiveCode,
  LookUpInvitation,
  ProvePassword,
  SignIn,
  TakeInvitation,
  type DoneView,
  type SecondStepBegun,
  type InvitationView,
  type SignedIn,
  type WhoView,
} from '@euphonos/contracts';
import { serialize } from 'cookie';
import type { Request, Response } from 'express';
import { SERVER_CONFIG, type ServerConfig } from '../config.js';
import { asker, requireAsker } from '../rights/asker.js';
import { cookieName } from '../rights/asking.js';
import { lacksSecondStep } from '../rights/rights.guard.js';
import { Anybody, Grave, OfAccount, SignedInOnly, Unnoted } from '../rights/right.js';
import { DoneService } from './done.service.js';
import { InvitationsService } from './invitations.service.js';
import { PeopleService } from './people.service.js';
import { SecondStepService } from './second-step.service.js';
import { LONGEST_HOURS, SignInService } from './sign-in.service.js';

@ApiTags('people')
@Controller('api')
export class SignInController {
  constructor(
    private readonly signIns: SignInService,
    private readonly people: PeopleService,
    private readonly invitations: InvitationsService,
    private readonly done: DoneService,
    private readonly steps: SecondStepService,
    @Inject(SERVER_CONFIG) private readonly config: ServerConfig,
  ) {}

  @Get('who')
  @Anybody()
  @ApiOperation({ summary: 'Who is signed in here, and what goes with every change.' })
  who(): WhoView {
    const person = asker();
    const { shared } = this.config;
    if (!person) return { shared, person: null, token: null, secondStepNeeded: false };
    const { personId: id, name, email, role, token } = person;
    return { shared, person: { id, name, email, role }, token, secondStepNeeded: lacksSecondStep(this.config, person) };
  }

  @Post('sign-in')
  // Noted as what it is, whoever was signed in before.
  @Unnoted()
  @HttpCode(204)
  @Anybody()
  async signIn(
    @Body() { email, password, code }: SignIn,
    @Req() request: Request,
    @Res({ passthrough: true }) response: Response,
  ): Promise<void> {
    this.#requireShared();
    this.#give(response, await this.signIns.signIn(email, password, code, request.headers['user-agent'] ?? ''));
  }

  @Post('sign-out')
  @HttpCode(204)
  @SignedInOnly()
  @OfAccount()
  async signOut(@Res({ passthrough: true }) response: Response): Promise<void> {
    await this.signIns.close(requireAsker().signInId);
    this.#give(response, '');
  }

  @Get('sign-ins')
  @SignedInOnly()
  @OfAccount()
  @ApiOperation({ summary: 'Devices on which one is signed in.' })
  signedIn(): Promise<SignedIn[]> {
    return this.signIns.list(requireAsker());
  }

  @Get('sign-ins/happened')
  @SignedInOnly()
  @OfAccount()
  @ApiOperation({ summary: 'What happened to one’s own account of late, the latest first.' })
  happened(): Promise<DoneView[]> {
    return this.done.toAccount(requireAsker().personId);
  }

  @Delete('sign-ins/:id')
  @HttpCode(204)
  @SignedInOnly()
  @OfAccount()
  endSignIn(@Param('id', ParseUUIDPipe) id: string): Promise<void> {
    return this.signIns.end(requireAsker(), id);
  }

  @Post('password')
  @HttpCode(204)
  @SignedInOnly()
  @OfAccount()
  @ApiOperation({ summary: 'Another password of one’s own; all other devices are signed out.' })
  async changePassword(@Body() { present, next }: ChangePassword): Promise<void> {
    const person = requireAsker();
    await this.signIns.requirePassword(person, present);
    await this.people.setPassword(person.personId, next);
    await this.signIns.closeOthers(person.personId, person.signInId);
  }

  @Get('second-step')
  @SignedInOnly()
  @OfAccount()
  @ApiOperation({ summary: 'Whether a code from a device is asked for beside one’s password.' })
  async secondStep(): Promise<{ readonly set: boolean }> {
    return { set: await this.steps.isSet(requireAsker().personId) };
  }

  @Post('second-step')
  @SignedInOnly()
  @OfAccount()
  @Grave()
  @ApiOperation({ summary: 'A secret for a device that makes codes (RFC 6238); nothing holds until a code of it was given.' })
  beginSecondStep(): Promise<SecondStepBegun> {
    return this.steps.begin(requireAsker());
  }

  @Put('second-step')
  @HttpCode(204)
  @SignedInOnly()
  @OfAccount()
  @Grave()
  confirmSecondStep(@Body() { code }: GiveCode): Promise<void> {
    return this.steps.confirm(requireAsker(), code);
  }

  @Delete('second-step')
  @HttpCode(204)
  @SignedInOnly()
  @OfAccount()
  @Grave()
  removeSecondStep(): Promise<void> {
    return this.steps.remove(requireAsker().personId);
  }

  @Post('prove')
  @HttpCode(204)
  @SignedInOnly()
  @OfAccount()
  @Unnoted()
  @ApiOperation({ summary: 'The password once more: what gives or takes access may be done for some minutes.' })
  prove(@Body() { password }: ProvePassword): Promise<void> {
    return this.signIns.prove(requireAsker(), password);
  }

  @Post('invitations/look-up')
  @HttpCode(200)
  @Anybody()
  @ApiOperation({ summary: 'What a link that was sent is for.' })
  lookUp(@Body() { secret }: LookUpInvitation): Promise<InvitationView> {
    this.#requireShared();
    return this.invitations.lookUp(secret);
  }

  @Post('invitations/take')
  @Unnoted()
  @HttpCode(204)
  @Anybody()
  @ApiOperation({ summary: 'Makes the account that a link is for, or renews its password, and signs in.' })
  async take(@Body() body: TakeInvitation, @Req() request: Request, @Res({ passthrough: true }) response: Response): Promise<void> {
    this.#requireShared();
    const { person, kind } = await this.invitations.take(body);
    // Whoever had the password before has no part in it any more.
    if (kind === 'renew') {
      await this.signIns.closeOthers(person.id);
      // Who lost the one may have lost the other.
      await this.steps.remove(person.id);
    }
    await this.done.note({ personId: person.id, name: person.name }, kind === 'join' ? 'sign-in.joined' : 'sign-in.renewed');
    this.#give(response, await this.signIns.open(person.id, request.headers['user-agent'] ?? ''));
  }

  #requireShared(): void {
    if (!this.config.shared) requireAsker();
  }

  #give(response: Response, secret: string): void {
    const { secureCookies: secure } = this.config;
    const maxAge = secret === '' ? 0 : LONGEST_HOURS * 3600;
    response.setHeader(
      'set-cookie',
      serialize(cookieName(secure), secret, { httpOnly: true, sameSite: 'strict', path: '/', secure, maxAge }),
    );
    // Nothing that was shown to this person is left for the next one on this machine.
    if (secret === '') response.setHeader('clear-site-data', '"cache"');
  }
}
