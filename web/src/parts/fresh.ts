/** Parameters that an op can't do without, when it is put into a recipe. */
import type { Json, Op } from '../api/client';
import { shot } from '../state/shot.svelte';

/** `narrow` where a number is needed and no colour: in a mask, or in a channel that is a number. */
export function fresh(op: Op, narrow: boolean): Record<string, Json> {
  const result: Record<string, Json> = narrow ? { ...(op.narrow as Record<string, Json>) } : {};
  for (const parameter of op.parameters) {
    if (parameter.type === 'signal') result[parameter.name] = shot.document?.signals[0]?.name ?? '';
    else if (parameter.type === 'attribute') result[parameter.name] = shot.attributes[0] ?? '';
    else if (parameter.type === 'image') {
      const first = shot.pictures[0];
      if (first) result[parameter.name] = { file: first.file, sha256: first.sha256 };
    }
  }
  return result;
}
