<!-- A formula: tried while one types, saved with Enter, its error pointed at under the character. -->
<script lang="ts">
  import { live } from '../state/live.svelte';
  import { shot } from '../state/shot.svelte';

  type Props = {
    value: string;
    label: string;
    at: string;
    oninput: (value: string) => void;
    onchange: (value: string) => void;
  };
  let { value, label, at, oninput, onchange }: Props = $props();

  let text = $state('');
  let editing = $state(false);
  let before = '';
  $effect(() => {
    if (!editing) text = value;
  });
  const problem = $derived(live.problems.find((each) => each.pointer === at));
  const rows = $derived(Math.min(Math.max(Math.ceil(text.length / 27), 2), 7));
  const mark = $derived(
    problem && problem.character !== null
      ? [
          text.slice(Math.max(problem.character - 16, 0), problem.character),
          text[problem.character] ?? ' ',
          text.slice(problem.character + 1, problem.character + 10),
        ]
      : null,
  );

  /** Saved however the field is left; what the server refuses stays here to be mended. */
  async function accept() {
    if (text === before) {
      editing = false;
      shot.drop();
      return;
    }
    const sent = text;
    onchange(sent);
    await shot.settled();
    if (text !== sent) return; // typed on meanwhile
    if (value === sent) {
      before = sent;
      editing = false;
    } else oninput(sent);
  }
</script>

<textarea
  class="mono"
  aria-label={label}
  spellcheck="false"
  {rows}
  maxlength="1000"
  bind:value={text}
  class:wrong={problem}
  onfocus={() => {
    if (!editing) before = value;
    editing = true;
  }}
  oninput={() => oninput(text)}
  onblur={() => void accept()}
  onkeydown={(event) => {
    event.stopPropagation();
    if (event.key === 'Enter' && !event.shiftKey) {
      event.preventDefault();
      if (!problem) void accept(); // it stays to be mended
    } else if (event.key === 'Escape') {
      editing = false;
      text = before;
      shot.drop();
    }
  }}></textarea>
{#if problem}
  <p role="alert">
    {#if mark}<code class="mono">{mark[0]}<b>{mark[1]}</b>{mark[2]}</code>{/if}
    {problem.reason.replace(/^formula: /, '')}
  </p>
{/if}

<style>
  textarea {
    width: 100%;
    resize: vertical;
    background: var(--ground);
    color: var(--amber);
    border: 1px solid var(--line);
    font-size: 12px;
    line-height: 16px;
    padding: 2px 4px;
  }
  textarea:focus {
    border-color: var(--amber);
    outline: none;
  }
  textarea.wrong {
    border-color: var(--bad);
  }
  p {
    margin: 2px 0;
    color: var(--bad);
    font-size: 12px;
    line-height: 14px;
  }
  code {
    display: block;
    white-space: pre;
    overflow: hidden;
    color: var(--quiet);
  }
  code b {
    color: var(--ground);
    background: var(--bad);
  }
</style>
