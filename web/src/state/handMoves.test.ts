import { describe, expect, it } from 'vitest';
import type { Shot } from '../api/client';
import { byHand } from './handMoves';

const key = (frame: number, value: number) => ({ id: `k${frame}`, frame, value, interpolation: 'linear' });
const tracks = [
  { id: 't1', at: '/objects/o1/position/0', keys: [key(1, 0), key(11, 2)] },
  { id: 't2', at: '/camera/position/1', keys: [key(1, 1)] },
  { id: 't3', at: '/objects/o1/rotation/1', formula: '9 * time', keys: [] },
];
const document = {
  objects: [{ id: 'o1', position: [0.5, 0, 0], rotation: [0, 0, 0] }],
  camera: { position: [0, 3, 5], target: [0, 0, 0] },
  tracks,
} as unknown as Shot;

describe('what a hand moves', () => {
  it('is moved from where its keys have it, and gets a key there', () => {
    const patch = [{ op: 'replace' as const, path: '/objects/0/position', value: [0.8, 0, 0.4] }];
    const made = byHand(document, 6, () => 1, patch);
    expect(made[0]).toBe(patch[0]);
    expect(made[1]).toMatchObject({ path: '/tracks/0/keys/1', value: { frame: 6 } });
    expect((made[1]?.value as { value: number }).value).toBeCloseTo(1.3);
  });

  it('is left without a key where that part stayed', () => {
    const patch = [{ op: 'replace' as const, path: '/objects/0/position', value: [0.5, 0, 0.4] }];
    expect(byHand(document, 6, () => 1, patch)).toEqual(patch);
  });

  it('is set as it is where it is the camera, and not at all where a formula moves it', () => {
    const camera = { position: [0, 2, 4], target: [0, 0, 0] };
    const [, set] = byHand(document, 1, () => 1, [{ op: 'replace', path: '/camera', value: camera }]);
    expect(set).toEqual({ op: 'replace', path: '/tracks/1/keys/0/value', value: 2 });
    const turn = [{ op: 'replace' as const, path: '/objects/0/rotation', value: [0, 20, 0] }];
    expect(byHand(document, 1, () => 0, turn)).toEqual(turn);
  });
});
