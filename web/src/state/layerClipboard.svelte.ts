/** Layers that were copied, kept by the browser so that they can be pasted into another look, shot or window. */
import type { Layer } from '../api/client';

const KEY = 'texallon layers';

function kept(): Layer[] {
  try {
    const layers = JSON.parse(localStorage.getItem(KEY) ?? '[]') as Layer[];
    return Array.isArray(layers) && layers.every((layer) => typeof layer?.name === 'string') ? layers : [];
  } catch {
    return []; // something else is stored there
  }
}

class LayerClipboard {
  layers = $state.raw<Layer[]>(kept());

  copy(layers: Layer[]): void {
    this.layers = layers;
    localStorage.setItem(KEY, JSON.stringify(layers));
  }
}

export const layerClipboard = new LayerClipboard();

if (typeof window !== 'undefined')
  window.addEventListener('storage', (event) => event.key === KEY && (layerClipboard.layers = kept()));
