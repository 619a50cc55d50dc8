<!-- What something stands by, belongs to or aims at: one of the set, or nothing. -->
<script lang="ts">
  import Choice from '../fields/Choice.svelte';
  import { shot } from '../state/shot.svelte';

  type Props = {
    /** JSON Pointer of the name. */
    path: string;
    value: string | null;
    text: string;
    label: string;
    names: string[];
  };
  let { path, value, text, label, names }: Props = $props();
  const NONE = '';
</script>

<div class="row">
  <span>{text}</span>
  <Choice
    named
    value={value ?? NONE}
    {label}
    options={[{ value: NONE, text: 'nothing' }, ...names.map((name) => ({ value: name, text: name }))]}
    onchange={(next) =>
      void shot.commit(
        [{ op: 'add', path, value: next === NONE ? null : next }],
        `${label}: ${next || 'nothing'}`,
      )}
  />
</div>
