import type { BatchRow, BatchView, ChangeBatchItems, StartBatch } from '@euphonos/contracts';
import { request } from './client.js';

export const listBatches = (): Promise<BatchRow[]> => request('GET', 'batches');
export const startBatch = (body: StartBatch): Promise<BatchView> => request('POST', 'batches', body);
export const getBatch = (id: string): Promise<BatchView> => request('GET', `batches/${id}`);
export const changeBatchItems = (id: string, body: ChangeBatchItems): Promise<BatchView> => request('PATCH', `batches/${id}`, body);
export const removeBatch = (id: string): Promise<void> => request('DELETE', `batches/${id}`);
