/** Steps that were copied, kept by the browser so that they can be pasted in another shot or window. */
import type { Json, Op, Step } from '../api/client';
import { shot } from './shot.svelte';

const KEY = 'texallon steps';

function kept(): Step[] {
  try {
    const steps = JSON.parse(localStorage.getItem(KEY) ?? '[]') as Step[];
    return Array.isArray(steps) && steps.every((step) => typeof step?.op === 'string') ? steps : [];
  } catch {
    return []; // something else is stored there
  }
}

class Clipboard {
  steps = $state.raw<Step[]>(kept());

  copy(steps: Step[]): void {
    this.steps = steps;
    localStorage.setItem(KEY, JSON.stringify(steps));
  }

  /** Those of the copied steps that can stand at a place for ops of a kind. */
  fitting(kind: Op['kind']): Json[] {
    const kindOf = (step: Step) => shot.vocabulary.ops.find((op) => op.name === step.op)?.kind;
    return this.steps.filter((step) => kindOf(step) === kind) as unknown as Json[];
  }
}

export const clipboard = new Clipboard();

if (typeof window !== 'undefined')
  window.addEventListener('storage', (event) => event.key === KEY && (clipboard.steps = kept()));
