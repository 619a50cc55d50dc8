/** Files that ops read: pictures and voxel grids. Those that are there, and another brought in from the person's disk. */
import { client, type Op, type Problem } from '../api/client';
import { notices } from '../state/notices.svelte';
import { shot } from '../state/shot.svelte';

export type FileKind = 'image' | 'voxel file';
export type KnownFile = { name: string; file: string; sha256: string };

/** What the chooser of files offers of each kind. */
const ACCEPTED = {
  image: '.png,.jpg,.jpeg,.tif,.tiff,.exr,.hdr',
  'voxel file': '.vdb,.npy,.npz',
};

export function knownFiles(kind: FileKind): KnownFile[] {
  return kind === 'image' ? shot.pictures : shot.voxelFiles;
}

/** Let the person choose a file and bring it in; nothing where they choose none, or it is refused. */
export async function bringIn(kind: FileKind): Promise<KnownFile | null> {
  const file = await chosen(ACCEPTED[kind]);
  if (!file) return null;
  const what = kind === 'image' ? 'picture' : 'voxels';
  const form = new FormData();
  form.set(what, file);
  const sent = { body: form as never, bodySerializer: (body: unknown) => body as FormData };
  try {
    const { data, error } =
      kind === 'image' ? await client.POST('/api/pictures', sent) : await client.POST('/api/voxels', sent);
    if (data) {
      await (kind === 'image' ? shot.refreshPictures() : shot.refreshVoxelFiles());
      return data;
    }
    const problem = error as unknown as Problem | undefined;
    notices.say('error', problem?.title ?? 'The file was refused', problem?.detail ?? '');
  } catch {
    notices.say('error', 'The file did not arrive', 'The server did not answer.');
  }
  return null;
}

/** Where an op reads a file and none is there yet, one is brought in first; whether there is one. */
export async function haveFiles(op: Op): Promise<boolean> {
  for (const each of op.parameters) {
    const kind = each.type;
    if ((kind === 'image' || kind === 'voxel file') && knownFiles(kind).length === 0)
      if (!(await bringIn(kind))) return false;
  }
  return true;
}

function chosen(accept: string): Promise<File | undefined> {
  return new Promise((done) => {
    const chooser = document.createElement('input');
    chooser.type = 'file';
    chooser.accept = accept;
    chooser.onchange = () => done(chooser.files?.[0]);
    chooser.oncancel = () => done(undefined);
    chooser.click();
  });
}
