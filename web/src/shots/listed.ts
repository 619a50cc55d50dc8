/** Small things about lists of shots: finding by typing, names for new ones. */
import type { ListedShot } from '../api/client';

/** Those of a list in which every typed word is found, in names and titles. */
export function matching(shots: ListedShot[], text: string): ListedShot[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  return shots.filter((each) => {
    const said = `${each.name} ${each.title}`.toLowerCase();
    return words.every((word) => said.includes(word));
  });
}

/** The next name in the way of the last: SH010 → SH020. */
export function nextName(names: string[]): string {
  const last = names.at(-1) ?? '';
  const found = /^(.*?)(\d+)(\D*)$/.exec(last);
  if (!found) return names.length ? `${last} 2` : 'SH010';
  const [, head = '', digits = '', tail = ''] = found;
  const by = digits.endsWith('0') ? 10 : 1;
  for (let number = Number(digits) + by; ; number += by) {
    const name = `${head}${String(number).padStart(digits.length, '0')}${tail}`;
    if (!names.includes(name)) return name;
  }
}
