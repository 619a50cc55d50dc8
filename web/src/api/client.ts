/** The typed client, and the names that the rest of the page uses for what the server speaks of. */
import createClient from 'openapi-fetch';
import { author, windowId } from '../state/window';
import { root } from './root';
import type { components, paths } from './schema';

type Schemas = components['schemas'];

/** The server always writes every member out, also those that a request may leave away. */
type Full<T> = T extends (infer U)[]
  ? number extends T['length']
    ? Full<U>[]
    : T
  : T extends object
    ? { [K in keyof T]-?: Full<T[K]> }
    : T;

export type Shot = Full<Schemas['Shot']>;
export type Look = Full<Schemas['Look']>;
export type Layer = Full<Schemas['Layer']>;
export type NamedNumber = Full<Schemas['NamedNumber']>;
export type NumberUse = Full<Schemas['NumberUse']>;
export type Track = Full<Schemas['Track']>;
export type Key = Full<Schemas['Key']>;
export type Curve = Schemas['Curve'];
export type Recipe = Full<Schemas['Recipe']>;
export type Step = Full<Schemas['Step']>;
export type ShotBody = Omit<Schemas['ShotBody'], 'document'> & { document: Shot };
export type AttributeInfo = Schemas['AttributeInfo'];
export type ListedShot = Schemas['ListedShot'];
export type ListedProject = Schemas['ListedProjectBody'];
export type Problem = Schemas['ProblemBody'];
export type Snapshot = Schemas['SnapshotItem'];
export type Revision = Schemas['RevisionItem'];
export type Picture = Schemas['PictureItem'];
export type VoxelFile = Schemas['VoxelFile'];
export type SignalItem = Schemas['SignalItem'];
export type Upload = Schemas['UploadResult'];
export type MeshItem = Schemas['MeshItem'];
export type Job = Schemas['JobBody'];
export type Render = Schemas['RenderBody'];
export type RenderFrame = Schemas['RenderFrameBody'];
export type RenderOrder = Schemas['RenderOrder'];
export type Estimate = Schemas['EstimateBody'];
export type Farm = Schemas['FarmBody'];
export type Op = Schemas['OpInfo'];
export type ShelfLook = Schemas['ShelfLook'];
export type Parameter = Schemas['OpParameter'];
export type Channel = Schemas['ChannelInfo'];
export type Vocabulary = Schemas['Vocabulary'];

export type Json = null | boolean | number | string | Json[] | { [name: string]: Json };
export type Operation = {
  op: 'add' | 'remove' | 'replace' | 'move' | 'copy';
  path: string;
  value?: Json;
  from?: string;
};

export type Conflict = Schemas['ConflictItem'];
export type Touch = Schemas['TouchItem'];

export const client = createClient<paths>({ baseUrl: root });

/** Every request says which window it comes from, and who is at it. */
client.use({
  onRequest({ request }) {
    request.headers.set('Texallon-Window', windowId);
    request.headers.set('Texallon-Author', encodeURIComponent(author()));
    return request;
  },
});
