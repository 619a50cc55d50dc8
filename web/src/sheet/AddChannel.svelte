<!-- What a layer does not change yet, of one group of channels: a menu to choose from. -->
<script lang="ts">
  import { DropdownMenu } from 'bits-ui';
  import type { Channel } from '../api/client';

  type Props = {
    group: string;
    layer: string;
    channels: Channel[];
    sign: string;
    onadd: (channel: Channel) => void;
  };
  let { group, layer, channels, sign, onadd }: Props = $props();
</script>

<DropdownMenu.Root>
  <DropdownMenu.Trigger class="adder" aria-label="add {group} to {layer}" title="add a value"
    ><span class="sign">{sign}</span><span class="word">+ {group}</span></DropdownMenu.Trigger
  >
  <DropdownMenu.Portal>
    <DropdownMenu.Content class="menu" align="start" sideOffset={4} collisionPadding={8}>
      {#each channels as channel (channel.name)}
        <DropdownMenu.Item class="menu-item" title={channel.purpose} onSelect={() => onadd(channel)}
          >{channel.label}</DropdownMenu.Item
        >
      {/each}
    </DropdownMenu.Content>
  </DropdownMenu.Portal>
</DropdownMenu.Root>
