/** Which look and which recipe lie open, and what of it the stage shows alone. */
import { PICTURE, STYLES, type Show, type Style } from '../api/live';
import { live } from './live.svelte';
import { pointer } from './pointer';
import { channelOf, findRecipe, inputOf, signalOf, whereOf, type Opened } from './recipeAddress';
import { shot } from './shot.svelte';

const labelOf = (name: string) =>
  shot.vocabulary.channels.find((channel) => channel.name === name)?.label ?? name;

class Bench {
  look = $state('');
  /** The open recipe's address; empty for none. */
  address = $state('');
  step = $state<number | null>(null);
  style = $state<Style>('grey');
  private alone: Show = PICTURE;

  /** The recipe that lies open, found by its address so that it survives edits. */
  opened = $derived.by((): Opened | null =>
    shot.document ? findRecipe(shot.document, this.address, labelOf) : null,
  );

  openLook(name: string): void {
    this.look = name;
    const look = shot.look(name)?.look;
    const masked = look?.layers.findLast((layer) => layer.where);
    const layer = look?.layers.find((each) => each.name === 'wet' && each.where) ?? masked ?? look?.layers[0];
    this.open(look && layer ? whereOf(look, layer) : '');
  }

  /** Open a recipe; a shared signal keeps the look that it is seen in. */
  open(address: string, look = this.look): void {
    this.address = address;
    this.look = (this.opened?.look ?? '') || look;
    this.step = null;
    live.setOpen(this.look, address);
    if (live.show.kind !== 'picture') this.showAlone();
  }

  /** Where a layer of the look on the sheet lies. */
  openWhere(layer: { id: string }, look = this.look): void {
    const found = shot.look(look);
    if (found) this.open(whereOf(found.look, layer), look);
  }

  /** What a layer of the look on the sheet does to a channel. */
  openChannel(layer: { id: string }, name: string, look = this.look): void {
    const found = shot.look(look);
    if (found) this.open(channelOf(found.look, layer, name), look);
  }

  openSignal(name: string): void {
    const signal = shot.document?.signals.find((each) => each.name === name);
    if (signal) this.open(signalOf(signal));
  }

  /** Open the recipe of a step's second input. */
  openInput(step: number, parameter: string): void {
    const recipe = this.opened?.recipe;
    if (recipe) this.open(inputOf(this.address, recipe, step, parameter));
  }

  /** Show the open recipe (or one of its steps) alone. */
  showAlone(step: number | null = null): void {
    this.step = step;
    const kind = step === null && this.address.endsWith('/where') ? 'mask' : 'step';
    this.alone = { ...PICTURE, kind, look: this.look, recipe: this.address, step, style: this.style };
    live.setShow(this.alone);
  }

  showChannel(channel: string): void {
    this.alone = {
      ...PICTURE,
      kind: 'channel',
      look: this.look,
      recipe: this.address,
      channel,
      style: this.style,
    };
    live.setShow(this.alone);
  }

  /** Show what an object carries alone, on everything that wears its look. */
  showAttribute(look: string, attribute: string, colour: boolean): void {
    this.alone = { ...PICTURE, kind: 'attribute', look, attribute, colour, style: this.style };
    live.setShow(this.alone);
  }

  showPicture(): void {
    live.setShow(PICTURE);
  }

  /** One key goes there and back. */
  toggle(): void {
    if (live.show.kind !== 'picture') this.showPicture();
    else this.showAlone(this.step);
  }

  setStyle(style: Style): void {
    this.style = style;
    if (live.show.kind !== 'picture') {
      this.alone = { ...live.show, style };
      live.setShow(this.alone);
    }
  }

  nextStyle(): void {
    this.setStyle(STYLES[(STYLES.indexOf(this.style) + 1) % STYLES.length] ?? 'grey');
  }
}

export function stepPointer(path: (string | number)[], step: number, ...more: (string | number)[]): string {
  return pointer(...path, 'steps', step, ...more);
}

export const bench = new Bench();
