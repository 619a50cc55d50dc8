/** Channels of a cell that were copied, kept by the browser so that they can be pasted into another layer, look, shot or window. */
import type { Json, Layer } from '../api/client';

const KEY = 'texallon cell';
type Channels = Record<string, Layer['channels'][string]>;

function kept(): Channels {
  try {
    const channels = JSON.parse(localStorage.getItem(KEY) ?? '{}') as Channels;
    const fine = typeof channels === 'object' && Object.values(channels).every((each) => each?.recipe);
    return fine ? channels : {};
  } catch {
    return {}; // something else is stored there
  }
}

class CellClipboard {
  channels = $state.raw<Channels>(kept());

  copy(layer: Layer, names: string[]): void {
    this.channels = Object.fromEntries(
      names.flatMap((name) => {
        const entry = layer.channels[name];
        return entry ? [[name, entry]] : [];
      }),
    );
    localStorage.setItem(KEY, JSON.stringify(this.channels));
  }

  /** Those of the copied channels that are of a group, as they are pasted: the shot gives ids of its own. */
  of(names: string[]): [name: string, value: Json][] {
    return names.flatMap((name) => {
      const entry = this.channels[name];
      const bare =
        entry &&
        (JSON.parse(JSON.stringify(entry, (key, value) => (key === 'id' ? undefined : value))) as Json);
      return bare ? [[name, bare] as [string, Json]] : [];
    });
  }
}

export const cellClipboard = new CellClipboard();

if (typeof window !== 'undefined')
  window.addEventListener('storage', (event) => event.key === KEY && (cellClipboard.channels = kept()));
