import { json } from '@sveltejs/kit';
import { samples, smallFile } from '../../../demo/list';

/** The sample documents that this server offers. */
export const GET = (): Response => json(samples.map((sample) => ({ ...sample, small: smallFile(sample) })));
