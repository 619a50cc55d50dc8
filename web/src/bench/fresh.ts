/** Parameters that an op can't do without, when it is put into a recipe. */
import type { Json, Op } from '../api/client';
import { knownFiles } from '../fields/bringIn';
import { bench } from '../state/bench.svelte';
import { shot } from '../state/shot.svelte';

/** Whether the recipe that is open makes a colour that one sees; else a picture in it is data. */
export function makesColour(): boolean {
  return (bench.opened?.signal ?? '') !== '' || (bench.opened?.channel ?? '').endsWith('color');
}

/** `narrow` where a number is needed and no colour: in a mask, or in a channel that is a number. */
export function fresh(op: Op, narrow: boolean): Record<string, Json> {
  const result: Record<string, Json> = {
    ...(op.fresh as Record<string, Json>),
    ...(narrow ? (op.narrow as Record<string, Json>) : {}),
  };
  if (op.name === 'image' && !makesColour()) {
    result.role = bench.opened?.channel.endsWith('normal') ? 'normal' : 'mask';
  }
  for (const parameter of op.parameters) {
    if (parameter.type === 'signal') result[parameter.name] = shot.document?.signals[0]?.name ?? '';
    else if (parameter.type === 'attribute') result[parameter.name] = shot.attributes[0] ?? '';
    else if (parameter.type === 'image' || parameter.type === 'voxel file') {
      const first = knownFiles(parameter.type)[0];
      if (first) result[parameter.name] = { file: first.file, sha256: first.sha256 };
    }
  }
  return result;
}
