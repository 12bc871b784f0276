import { Body, Controller, Delete, Get, HttpCode, Param, ParseIntPipe, ParseUUIDPipe, Patch, Post, Put, Query } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import {
  ChangePerson,
  Invite,
  ShareProduction,
  type DonePage,
  type InvitationMade,
  type OpenInvitation,
  type PersonName,
  type PersonView,
  type ProductionPerson,
} from '@euphonos/contracts';
import { AppProblem } from '../problems/app-problem.js';
import { requireAsker } from '../rights/asker.js';
import { About, Changes, Engineers, Grave, Owners } from '../rights/right.js';
import { DoneService } from './done.service.js';
import { InvitationsService } from './invitations.service.js';
import { PeopleService } from './people.service.js';

@ApiTags('people')
@Controller('api')
export class PeopleController {
  constructor(
    private readonly people: PeopleService,
    private readonly invitations: InvitationsService,
    private readonly done: DoneService,
  ) {}

  @Get('people')
  @Owners()
  list(): Promise<PersonView[]> {
    return this.people.list();
  }

  @Get('people/names')
  @Engineers()
  @ApiOperation({ summary: 'With whom something can be shared.' })
  names(): Promise<PersonName[]> {
    return this.people.names();
  }

  @Patch('people/:id')
  @Grave()
  @About('person', 'params.id')
  @HttpCode(204)
  @Owners()
  @ApiOperation({ summary: 'Another role, or no way in any more; what they made stays.' })
  change(@Param('id', ParseUUIDPipe) id: string, @Body() body: ChangePerson): Promise<void> {
    return this.people.change(id, body);
  }

  @Post('people/:id/renewal')
  @Grave()
  @About('person', 'params.id')
  @Owners()
  @ApiOperation({ summary: 'A link with which they choose another password, for two hours.' })
  renew(@Param('id', ParseUUIDPipe) id: string): Promise<InvitationMade> {
    return this.invitations.renew(id, requireAsker());
  }

  @Get('invitations')
  @Owners()
  open(): Promise<OpenInvitation[]> {
    return this.invitations.list();
  }

  @Post('invitations')
  @Grave()
  @Engineers()
  @Changes('production', 'body.productionId')
  @ApiOperation({ summary: 'A link that makes an account. Engineers invite listeners to a production of theirs, owners anybody.' })
  invite(@Body() body: Invite): Promise<InvitationMade> {
    const person = requireAsker();
    if (person.role !== 'owner' && (body.role !== 'listener' || !body.productionId))
      throw new AppProblem(403, 'no-right', 'Engineers invite listeners to a production of theirs; owners invite anybody.');
    return this.invitations.invite(body, person);
  }

  @Delete('invitations/:id')
  @HttpCode(204)
  @Owners()
  takeBack(@Param('id', ParseUUIDPipe) id: string): Promise<void> {
    return this.invitations.takeBack(id);
  }

  @Get('productions/:id/people')
  @Changes('production')
  shared(@Param('id', ParseUUIDPipe) id: string): Promise<ProductionPerson[]> {
    return this.people.sharedWith(id);
  }

  @Put('productions/:id/people/:personId')
  @HttpCode(204)
  @Changes('production')
  share(
    @Param('id', ParseUUIDPipe) id: string,
    @Param('personId', ParseUUIDPipe) personId: string,
    @Body() { share }: ShareProduction,
  ): Promise<void> {
    return this.people.share(id, personId, share);
  }

  @Delete('productions/:id/people/:personId')
  @HttpCode(204)
  @Changes('production')
  unshare(@Param('id', ParseUUIDPipe) id: string, @Param('personId', ParseUUIDPipe) personId: string): Promise<void> {
    return this.people.unshare(id, personId);
  }

  @Get('done')
  @Owners()
  @ApiOperation({ summary: 'Who did what, the latest first.' })
  page(
    @Query('before', new ParseIntPipe({ optional: true })) before: number | undefined,
    @Query('person', new ParseUUIDPipe({ optional: true })) personId: string | undefined,
  ): Promise<DonePage> {
    return this.done.page(before, personId);
  }
}
