<!-- What a new layer is: an empty one, one that carries another look, or one that was copied. -->
<script lang="ts">
  import { DropdownMenu } from 'bits-ui';
  import { bench } from '../state/bench.svelte';
  import { layerClipboard } from '../state/layerClipboard.svelte';
  import { carriable } from '../state/lookEdits';
  import { shot } from '../state/shot.svelte';

  type Props = { onempty: () => void; oncarry: (look: string) => void; onpaste: () => void };
  let { onempty, oncarry, onpaste }: Props = $props();
  const looks = $derived(shot.document ? carriable(shot.document, bench.look) : []);
</script>

<DropdownMenu.Root>
  <DropdownMenu.Trigger class="look-menu">+ layer</DropdownMenu.Trigger>
  <DropdownMenu.Portal>
    <DropdownMenu.Content class="menu" align="end" sideOffset={4} collisionPadding={8}>
      <DropdownMenu.Item class="menu-item" onSelect={onempty}>empty layer</DropdownMenu.Item>
      {#if layerClipboard.layers.length}
        <DropdownMenu.Item class="menu-item" onSelect={onpaste}
          >paste {layerClipboard.layers
            .map((layer) => layer.name)
            .join(', ')
            .slice(0, 40)}</DropdownMenu.Item
        >
      {/if}
      {#if looks.length}
        <DropdownMenu.Group>
          <DropdownMenu.GroupHeading class="menu-note">a look as a layer</DropdownMenu.GroupHeading>
          {#each looks as name (name)}
            <DropdownMenu.Item class="menu-item" onSelect={() => oncarry(name)}>{name}</DropdownMenu.Item>
          {/each}
        </DropdownMenu.Group>
      {/if}
    </DropdownMenu.Content>
  </DropdownMenu.Portal>
</DropdownMenu.Root>
