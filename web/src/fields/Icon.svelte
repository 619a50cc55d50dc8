<!-- The few pictures that stand for a word; whoever uses one says the word too. -->
<script lang="ts">
  import Star from 'carbon-icons-svelte/lib/Star.svelte';
  import StarFilled from 'carbon-icons-svelte/lib/StarFilled.svelte';
  import View from 'carbon-icons-svelte/lib/View.svelte';
  import ViewOff from 'carbon-icons-svelte/lib/ViewOff.svelte';
  import Locked from 'carbon-icons-svelte/lib/Locked.svelte';

  type Props = { name: 'eye' | 'eye off' | 'lock' | 'star' | 'star outline' };
  let { name }: Props = $props();
  const SIGNS = { eye: View, 'eye off': ViewOff, lock: Locked, star: StarFilled, 'star outline': Star };
  const Sign = $derived(SIGNS[name]);
</script>

<Sign size={16} aria-hidden="true" />
