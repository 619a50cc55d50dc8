/** Names for what goes over the live connection. All of it is generated from the server's models. */
import type { components } from './schema';
import type { Operation } from './client';

type Schemas = components['schemas'];

/** The server always writes every member out, also those that have a default. */
type Full<T> = T extends (infer U)[]
  ? number extends T['length']
    ? Full<U>[]
    : T
  : T extends object
    ? { [K in keyof T]-?: Full<T[K]> }
    : T;

export type FromPage = Schemas['FromPage'];
export type ToPage = Full<Schemas['ToPage']>;

export type Show = Full<Schemas['StageTarget']>;
export type Style = Show['style'];
export type Viewing = Full<Schemas['DisplaySettings']>;
export type Region = NonNullable<Viewing['region']>;
export type CameraMove = Omit<Full<Schemas['CameraMessage']>, 'do' | 'serial'>;

export type PictureHead = Full<Schemas['PictureHead']>;
export type Gizmo = Full<Schemas['Gizmo']>;
export type Handle = Full<Schemas['Handle']>;
export type StepMeasure = Full<Schemas['StepMeasure']>;
export type Values = Full<Schemas['Values']>;
export type Response = Full<Schemas['StepResponse']>;
export type Cell = Full<Schemas['SheetCell']>;
export type DocumentProblem = Full<Schemas['ProblemItem']>;
export type Reading = Full<Schemas['PointRead']>;
export type LayerReading = Full<Schemas['LayerRead']>;
export type StepReading = Full<Schemas['StepRead']>;
/** A value along the way; what is not finite comes as a word. */
export type Value = StepReading['value'];
export type Advice = Omit<Full<Schemas['AdviceItem']>, 'fix'> & {
  fix: { label: string; patch: Operation[] } | null;
};
export type Loading = Full<Schemas['Loading']>;
export type Working = Full<Schemas['Working']>;
export type Fault = Full<Schemas['FaultMessage']>;
export type OtherWindow = Full<Schemas['OtherWindow']>;
export type Memory = Full<Schemas['MemoryMessage']>;

export const STYLES: Style[] = ['grey', 'false colour', 'lines'];
export const PICTURE: Show = {
  kind: 'picture',
  look: '',
  recipe: '',
  step: null,
  channel: '',
  attribute: '',
  colour: false,
  style: 'grey',
};
export const AS_IT_IS: Viewing = { view: '', exposure: 0, gamma: 1, region: null, paused: false };
