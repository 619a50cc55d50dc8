/** Where a shared signal is used in a shot: what changes there when its recipe does. */
import type { Json, Shot } from '../api/client';

function names(part: Json | undefined, name: string): boolean {
  if (Array.isArray(part)) return part.some((each) => names(each, name));
  if (part === null || typeof part !== 'object') return false;
  const formula = part['expression'];
  if (typeof formula === 'string')
    return [...formula.matchAll(/\bsignal\(\s*(["'])(.*?)\1\s*\)/g)].some((found) => found[2] === name);
  return part['signal'] === name || Object.values(part).some((each) => names(each as Json, name));
}

/** What people call the recipes that use a signal, itself or by way of another. */
export function usesOfSignal(document: Shot, name: string): string[] {
  const through = [name];
  for (const each of through)
    for (const signal of document.signals)
      if (!through.includes(signal.name) && names(signal.recipe as unknown as Json, each))
        through.push(signal.name);
  const uses = (part: unknown) => through.some((each) => names(part as Json, each));
  const picks = document.objects.flatMap((item) =>
    item.parts
      .filter((part) => part.picked && through.includes(part.picked.signal))
      .map((part) => `${item.name}: part ${part.name}`),
  );
  const changes = document.objects.flatMap((item) =>
    item.copies
      .filter((change) => through.includes(change.signal))
      .map((change) => `${item.name}: copies · ${change.does}`),
  );
  const kept = document.objects.flatMap((item) =>
    item.remembers
      .filter((each) => {
        const read = each.kind === 'growth' ? [each.signal, each.ragged, each.heals] : [each.signal];
        return read.some((name) => name && through.includes(name));
      })
      .map((each) => `${item.name}: remembers ${each.name}`),
  );
  const afloat = document.objects
    .filter((item) => item.floats && through.includes(item.floats.signal))
    .map((item) => `${item.name}: floats`);
  const lie = document.looks.flatMap((look) =>
    look.layers.flatMap((layer) => [
      ...(uses(layer.where) ? [`${look.name}: ${layer.name} · where`] : []),
      ...Object.entries(layer.channels).flatMap(([channel, entry]) =>
        uses(entry.recipe) ? [`${look.name}: ${layer.name} · ${channel.replaceAll('_', ' ')}`] : [],
      ),
    ]),
  );
  return [...lie, ...picks, ...changes, ...kept, ...afloat];
}
