/** What a person typed into a number's field: arithmetic and units are understood, by math.js without what could change it. */
import { all, create } from 'mathjs';

const math = create(all ?? {}, {});
const evaluate = math.evaluate.bind(math);
const refuse = () => {
  throw new Error('only values are wanted');
};
// What its own page on security says to take away where strangers' text is evaluated.
math.import(
  {
    import: refuse,
    createUnit: refuse,
    evaluate: refuse,
    parse: refuse,
    simplify: refuse,
    derivative: refuse,
  },
  { override: true },
);

/** What math.js calls the units of our fields. Those that are not here are only numbers. */
const UNITS: Record<string, string> = { m: 'm', mm: 'mm', '°': 'deg', s: 's', K: 'K', W: 'W', '/m': '1/m' };
const LONGEST = 200;

export type Typed = { value: number } | { wrong: string };

/** A number in the field's unit, or what is wrong with the text. A bare number is in that unit; another of its kind is turned into it. */
export function typed(text: string, unit = ''): Typed {
  const bare = plain(text, unit);
  if (!bare || bare.length > LONGEST) return { wrong: 'a number is wanted here' };
  let found: unknown;
  try {
    found = evaluate(bare);
  } catch {
    return { wrong: `“${text.trim().slice(0, 30)}” is no number` };
  }
  if (typeof found === 'object' && found !== null && 'toNumber' in found) {
    // A field that does not say its unit is in one of the document's.
    const kinds = unit ? [UNITS[unit] ?? ''].filter(Boolean) : ['m', 'deg', 's'];
    found = inOneOf(found as Quantity, kinds);
    if (found === null)
      return { wrong: unit ? `a number in ${unit} is wanted here` : 'a number is wanted here' };
  }
  if (typeof found !== 'number' || !Number.isFinite(found))
    return { wrong: `“${text.trim().slice(0, 30)}” is no number` };
  return { value: Number(found.toPrecision(12)) };
}

type Quantity = { toNumber(unit: string): number };

function inOneOf(quantity: Quantity, units: string[]): number | null {
  for (const unit of units) {
    try {
      return quantity.toNumber(unit);
    } catch {
      // of another kind
    }
  }
  return null;
}

/** As math.js writes it: a proper minus, a decimal comma, signs for degrees and shares. */
function plain(text: string, unit: string): string {
  let bare = text.trim().replaceAll('−', '-').replaceAll('×', '*').replaceAll('π', 'pi');
  if (/^[-+]?\d*,\d+\s*\D*$/.test(bare)) bare = bare.replace(',', '.');
  bare = bare.replaceAll('°', ' deg');
  if (unit === '°') bare = bare.replace(/\s*deg$/, '');
  // The field's own unit says nothing new.
  else if (unit && bare.endsWith(unit) && !/[a-z]/i.test(bare.at(-unit.length - 1) ?? ''))
    bare = bare.slice(0, -unit.length);
  return bare.trim().replace(/\*$/, '').trim();
}
