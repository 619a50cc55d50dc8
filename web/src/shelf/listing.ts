/** What is on the shelf: found by words, and whether it is newer than what a look is linked to. */
import type { ShelfLook } from '../api/client';

/** Looks whose name, tags or note hold every word that was typed. */
export function matchingLooks(looks: ShelfLook[], text: string): ShelfLook[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  return looks.filter((look) => {
    const all = [look.name, look.note, ...look.tags].join(' ').toLowerCase();
    return words.every((word) => all.includes(word));
  });
}

/** Words of a line, apart by commas, each once. */
export const tagsOf = (line: string) => [
  ...new Set(
    line
      .split(',')
      .map((each) => each.trim())
      .filter(Boolean),
  ),
];

/** What is on the shelf in a newer version than a look is linked to. */
export function newerThan(
  looks: ShelfLook[],
  link: { name: string; version: number } | null | undefined,
): ShelfLook | null {
  const found = link ? looks.find((each) => each.name === link.name) : undefined;
  return found && link && found.version > link.version ? found : null;
}
