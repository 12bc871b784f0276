import { Body, Controller, Delete, Get, HttpCode, Param, ParseUUIDPipe, Patch, Post } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import { ChangeProduction, MakeProduction, type ProductionView } from '@euphonos/contracts';
import { ProductionsService } from './productions.service.js';
import { About, Changes, Engineers, SignedInOnly } from '../rights/right.js';

@ApiTags('productions')
@Controller('api/productions')
export class ProductionsController {
  constructor(private readonly productions: ProductionsService) {}

  @Get()
  @SignedInOnly()
  list(): Promise<ProductionView[]> {
    return this.productions.list();
  }

  @Post()
  @Engineers()
  @About('production', 'answer.id')
  make(@Body() { name }: MakeProduction): Promise<ProductionView> {
    return this.productions.make(name);
  }

  @Patch(':id')
  @Changes('production')
  change(@Param('id', ParseUUIDPipe) id: string, @Body() body: ChangeProduction): Promise<ProductionView> {
    return this.productions.change(id, body);
  }

  @Delete(':id')
  @Changes('production')
  @HttpCode(204)
  @ApiOperation({ summary: 'Its sessions stay, in no production.' })
  remove(@Param('id', ParseUUIDPipe) id: string): Promise<void> {
    return this.productions.remove(id);
  }
}
