/** Parameters that vary from point to point: what a new recipe for one begins as, and what it costs. */
import type { Json } from '../api/client';

type Named = { name: string; recipe: { steps: readonly unknown[] } };

/** A recipe whose values lie about a number, within the parameter's limits. */
export function recipeAbout(value: number, low: number | null, high: number | null): Json {
  const within = (x: number) => Math.min(Math.max(x, low ?? -Infinity), high ?? Infinity);
  const reach = Math.abs(value) / 2 || 0.5;
  const ends = { low: within(value - reach), high: within(value + reach) };
  return { steps: [{ op: 'noise', params: { ...ends, spread: 'full' } }] };
}

/** How many steps something that stands for a number has, those of the signals and recipes within it too. */
export function stepsIn(value: Json | undefined, signals: readonly Named[], within: string[] = []): number {
  if (Array.isArray(value))
    return value.reduce((sum: number, each) => sum + stepsIn(each, signals, within), 0);
  if (value === null || typeof value !== 'object') return 0;
  const name = value['signal'];
  const steps = value['steps'];
  if (typeof name === 'string' && !within.includes(name)) {
    const found = signals.find((each) => each.name === name);
    return found ? stepsIn({ steps: found.recipe.steps as Json[] }, signals, [...within, name]) : 0;
  }
  if (!Array.isArray(steps))
    return Object.values(value).reduce((sum: number, each) => sum + stepsIn(each, signals, within), 0);
  return steps.reduce((sum: number, step) => {
    const own = (step as { params?: Json } | null)?.params;
    return sum + 1 + stepsIn(own, signals, within);
  }, 0);
}
