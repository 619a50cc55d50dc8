import { root } from '../api/root';

/** The address of a shot's small picture; it changes with the picture, so that none is shown that is not it. */
export function pictureOf(shotId: number | null, digest: string | null): string {
  return shotId && digest ? `${root}/api/shots/${shotId}/picture?of=${digest.slice(0, 12)}` : '';
}
