<!-- What a layer does not change yet, of one group of channels: a menu to choose from. -->
<script lang="ts">
  import { DropdownMenu } from 'bits-ui';
  import type { Channel } from '../api/client';

  type Props = {
    group: string;
    layer: string;
    channels: Channel[];
    sign: string;
    /** How many channels the cell has that could be copied, and how many were copied that could be pasted here. */
    copies: number;
    pastes: number;
    onadd: (channel: Channel) => void;
    oncopy: () => void;
    onpaste: () => void;
  };
  let { group, layer, channels, sign, copies, pastes, onadd, oncopy, onpaste }: Props = $props();
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
      {#if copies || pastes}<DropdownMenu.Separator class="menu-line" />{/if}
      {#if copies}
        <DropdownMenu.Item class="menu-item" title="Ctrl C in the cell" onSelect={oncopy}
          >copy {copies === 1 ? 'it' : `all ${copies}`}</DropdownMenu.Item
        >
      {/if}
      {#if pastes}
        <DropdownMenu.Item class="menu-item" title="Ctrl V in the cell" onSelect={onpaste}
          >paste {pastes === 1 ? 'what was copied' : `the ${pastes} copied`}</DropdownMenu.Item
        >
      {/if}
    </DropdownMenu.Content>
  </DropdownMenu.Portal>
</DropdownMenu.Root>
