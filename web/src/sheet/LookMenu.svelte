<!-- What can be done to the look on the sheet: new, copy, rename, where it is used, delete. -->
<script lang="ts">
  import { DropdownMenu } from 'bits-ui';
  import { bench } from '../state/bench.svelte';
  import { layerClipboard } from '../state/layerClipboard.svelte';
  import { asNewLayers, duplicatedLook, newLook, newVolume, usesOfLook } from '../state/lookEdits';
  import { addedNumber } from '../state/numberEdits';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';

  type Props = { onreview: () => void; onshelf: () => void; onrename: () => void; onremove: () => void };
  let { onreview, onshelf, onrename, onremove }: Props = $props();

  const found = $derived(shot.look(bench.look));
  const uses = $derived(shot.document ? usesOfLook(shot.document, bench.look) : []);

  async function take(made: { name: string; patch: Parameters<typeof shot.commit>[0] }, what: string) {
    await shot.commit(made.patch, `${what} ${made.name}`);
    bench.openLook(made.name);
  }
  /** A value with a name that several parameters can use: it stands at the top of the sheet. */
  function addNumber() {
    if (!shot.document) return;
    const made = addedNumber(shot.document, bench.look);
    void shot.commit(made.patch, `add the number ${made.name}`);
  }
  function paste() {
    if (!found) return;
    const layers = asNewLayers(
      layerClipboard.layers,
      found.look.layers.map((layer) => layer.name),
    );
    void shot.commit(
      layers.map((value) => ({ op: 'add', path: pointer('looks', found.index, 'layers', '-'), value })),
      `paste ${layers.length === 1 ? 'a layer' : `${layers.length} layers`}`,
    );
  }
</script>

<DropdownMenu.Root>
  <DropdownMenu.Trigger class="look-menu" aria-label="what to do with the look {bench.look}"
    >look …</DropdownMenu.Trigger
  >
  <DropdownMenu.Portal>
    <DropdownMenu.Content class="menu" align="start" sideOffset={4} collisionPadding={8}>
      <DropdownMenu.Item
        class="menu-item"
        onSelect={() => shot.document && take(newLook(shot.document), 'new look')}>new look</DropdownMenu.Item
      >
      <DropdownMenu.Item
        class="menu-item"
        onSelect={() => shot.document && take(newVolume(shot.document), 'new volume')}
        >new volume</DropdownMenu.Item
      >
      <DropdownMenu.Item
        class="menu-item"
        onSelect={() => shot.document && found && take(duplicatedLook(shot.document, found.index), 'copy')}
        >duplicate</DropdownMenu.Item
      >
      <DropdownMenu.Item class="menu-item" onSelect={onrename}>rename</DropdownMenu.Item>
      <DropdownMenu.Item class="menu-item" onSelect={() => found && layerClipboard.copy(found.look.layers)}
        >copy all layers</DropdownMenu.Item
      >
      {#if layerClipboard.layers.length}
        <DropdownMenu.Item class="menu-item" onSelect={paste}
          >paste {layerClipboard.layers
            .map((layer) => layer.name)
            .join(', ')
            .slice(0, 40)}</DropdownMenu.Item
        >
      {/if}
      <DropdownMenu.Item class="menu-item" onSelect={addNumber}>new named number</DropdownMenu.Item>
      <DropdownMenu.Item class="menu-item" onSelect={onshelf}>shelf of looks …</DropdownMenu.Item>
      <DropdownMenu.Item class="menu-item" onSelect={onreview}>review sheet …</DropdownMenu.Item>
      {#if (shot.document?.looks.length ?? 0) > 1}
        <DropdownMenu.Item class="menu-item" onSelect={onremove}>delete …</DropdownMenu.Item>
      {/if}
      <DropdownMenu.Separator class="menu-line" />
      <DropdownMenu.Group>
        <DropdownMenu.GroupHeading class="menu-note"
          >{uses.length ? 'used by' : 'used by nothing'}</DropdownMenu.GroupHeading
        >
        {#each uses as use (use.where + use.how)}
          <div class="menu-note">
            {use.where}{use.how === 'carried' ? ', as a layer' : use.how === 'filled' ? ', filled' : ''}
          </div>
        {/each}
      </DropdownMenu.Group>
    </DropdownMenu.Content>
  </DropdownMenu.Portal>
</DropdownMenu.Root>
