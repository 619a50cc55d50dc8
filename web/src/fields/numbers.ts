/** Numbers as a person reads them. */
export function shown(value: number, digits = 3): string {
  if (!Number.isFinite(value)) return String(value);
  if (value === 0) return '0';
  const size = Math.abs(value);
  if (size >= 1e5 || size < 5e-5) return value.toExponential(1).replace('-', '−');
  // Small numbers keep two digits that count: 0.00016 is not 0.
  const places = size >= 100 ? 1 : size >= 10 ? 2 : Math.max(digits, 1 - Math.floor(Math.log10(size)));
  return value
    .toFixed(places)
    .replace(/(\.\d*?)0+$/, '$1')
    .replace(/\.$/, '')
    .replace('-', '−');
}

/** A number with its unit, metres as millimetres where they are few. */
export function shownIn(value: number, unit: string, digits = 3): string {
  if (unit === 'm' && value !== 0 && Math.abs(value) < 0.1) return `${shown(value * 1000, digits)} mm`;
  return unit === 'm' ? `${shown(value, digits)} m` : shown(value, digits);
}

/** Rounded so that dragging gives numbers that one would type. */
export function tidy(value: number): number {
  if (value === 0 || !Number.isFinite(value)) return 0;
  const size = Math.floor(Math.log10(Math.abs(value)));
  const scale = 10 ** (size < -2 ? 2 - size : 4 - Math.max(size, 0));
  return Math.round(value * scale) / scale;
}

export function clamp(
  value: number,
  low: number | null | undefined,
  high: number | null | undefined,
): number {
  return Math.min(Math.max(value, low ?? -Infinity), high ?? Infinity);
}

export function percent(share: number): string {
  const value = share * 100;
  return value > 0 && value < 1 ? '<1 %' : `${Math.round(value)} %`;
}

/** Bytes in the unit that fits. */
export const inBytes = (bytes: number) =>
  bytes >= 1e9 ? `${shown(bytes / 1e9, 2)} GB` : `${shown(Math.round(bytes / 1e5) / 10, 1)} MB`;
