<!-- Arms recording by hand: the next drag of the thing in the picture plays the shot and sets its keys. -->
<script lang="ts">
  import { chosen, type List } from '../state/chosen.svelte';
  import { recorder } from '../state/recording.svelte';

  type Props = { list: List; id: string; name: string };
  const { list, id, name }: Props = $props();
  const armed = $derived(recorder.isArmed(list, id));

  const said = $derived(armed ? 'drag it in the picture now' : 'record by hand');

  function arm() {
    recorder.arm(list, id);
    if (!recorder.isArmed(list, id)) return;
    chosen.choose(list, id);
    chosen.way = 'move';
  }
</script>

<button
  class="plain"
  aria-pressed={armed}
  aria-label="{said}: {name}"
  title="the next drag of it in the picture plays the shot; where your hand was becomes keys"
  onclick={arm}>{said}</button
>

<style>
  button {
    min-height: 24px;
    color: var(--amber);
  }
</style>
