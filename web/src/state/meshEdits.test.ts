import { describe, expect, it } from 'vitest';
import type { Shot } from '../api/client';
import { addedMeshes } from './meshEdits';

const document = { objects: [{ name: 'pot' }] } as unknown as Shot;
const mesh = (name: string, low: number[], high: number[]) => ({
  name,
  geometry: { file: `uploads/${name}.glb`, sha256: null },
  low,
  high,
});
const two = [mesh('pot', [1, 2, 3], [2, 3, 4]), mesh('lid', [1, 3, 3], [2, 4, 5])];
const values = (made: { patch: { value?: unknown }[] }) =>
  made.patch.map((each) => each.value as { name: string; position: number[]; scale: number });

describe('adding meshes', () => {
  it('keeps them where their files place them', () => {
    const made = addedMeshes(document, two, 'keep', 'l');
    expect(values(made)).toMatchObject([
      { name: 'pot 2', position: [0, 0, 0], scale: 1 },
      { name: 'lid', position: [0, 0, 0] },
    ]);
    expect(made.notes).toEqual([]);
  });
  it('moves all alike onto the ground', () => {
    const [first, second] = values(addedMeshes(document, two, 'ground', 'l'));
    expect(first?.position).toEqual([-1.5, -2, -4]);
    expect(second?.position).toEqual(first?.position);
  });
  it('scales all alike to a metre', () => {
    const made = addedMeshes(document, two, 'metre', 'l');
    expect(values(made)[0]).toMatchObject({ scale: 0.5, position: [-0.75, -1, -2] });
    expect(made.notes).toHaveLength(2);
  });
  it('says where units are probably not metres', () => {
    expect(addedMeshes(document, [mesh('a', [0, 0, 0], [900, 1, 1])], 'keep', 'l').notes[0]).toContain(
      '900 m',
    );
    expect(addedMeshes(document, [mesh('a', [0, 0, 0], [0, 0, 0])], 'metre', 'l').notes).toEqual([]);
  });
});
