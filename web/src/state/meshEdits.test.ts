import { describe, expect, it } from 'vitest';
import type { Shot } from '../api/client';
import { addedMeshes, numbered } from './meshEdits';

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
  it('makes one object of files with numbers, the missing ones as the one before', () => {
    const files = ['rain.0012', 'rain.0010', 'rain.0013'].map((name) => mesh(name, [0, 0, 0], [1, 1, 1]));
    const made = addedMeshes(document, files, 'keep', 'l', true);
    const [only, ...rest] = values(made) as unknown as {
      name: string;
      geometry: { file: string };
      sequence: { first: number; files: { file: string }[] };
    }[];
    expect(rest).toEqual([]);
    expect(only?.name).toBe('rain');
    expect(only?.geometry.file).toBe('uploads/rain.0010.glb');
    expect(only?.sequence.first).toBe(10);
    expect(only?.sequence.files.map((each) => each.file.slice(8, 17))).toEqual([
      'rain.0010',
      'rain.0010',
      'rain.0012',
      'rain.0013',
    ]);
    expect(made.notes).toEqual(['1 frames between have no file and show the one before']);
  });
  it.each([[['a1', 'b2']], [['a', 'b']], [['a1']], [['a1', 'a01']]])('takes %j for no sequence', (names) => {
    expect(numbered(names)).toBeNull();
  });
});
