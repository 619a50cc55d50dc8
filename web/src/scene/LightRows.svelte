<!-- The shot's lamps: switched, shaped, coloured, placed, added and taken away. -->
<script lang="ts">
  import RecordButton from './RecordButton.svelte';
  import { client, type Json, type Problem } from '../api/client';
  import { chosen } from '../state/chosen.svelte';
  import { notices } from '../state/notices.svelte';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';
  import Choice from '../fields/Choice.svelte';
  import ColourField from '../fields/ColourField.svelte';
  import MemberNumber from '../fields/MemberNumber.svelte';
  import GroupChoice from './GroupChoice.svelte';

  const SHAPES = ['rectangle', 'disc', 'sphere', 'point', 'spot', 'sun'];
  /** Which numbers a shape has, with unit and limits. */
  const NUMBERS: Record<string, [name: string, label: string, unit: string, low: number, high: number][]> = {
    rectangle: [
      ['width', 'width', 'm', 0.001, 1000],
      ['height', 'height', 'm', 0.001, 1000],
    ],
    disc: [['width', 'diameter', 'm', 0.001, 1000]],
    sphere: [['width', 'diameter', 'm', 0.001, 1000]],
    point: [],
    spot: [
      ['cone', 'cone', '°', 1, 180],
      ['blend', 'soft edge', '', 0, 1],
    ],
    sun: [['angle', 'across', '°', 0, 90]],
  };

  let opened = $state('');
  const lights = $derived(shot.document?.lights ?? []);
  const set = (index: number, name: string, value: Json, label: string) =>
    void shot.commit([{ op: 'add', path: pointer('lights', index, name), value }], label);
  const tryOut = (index: number, name: string, value: Json) =>
    shot.preview([{ op: 'add', path: pointer('lights', index, name), value }]);

  function open(light: (typeof lights)[number]) {
    opened = opened === light.name ? '' : light.name;
    if (opened) chosen.choose('lights', light.id);
    else chosen.nothing();
  }

  type Place = [number, number, number];
  const away = (a: readonly number[], b: readonly number[]) =>
    Math.max(Math.hypot(...a.map((x, i) => x - (b[i] ?? 0))), 0.01);

  /** The lamp stands where it is told, facing what was clicked. */
  async function stand(
    index: number,
    answer: Promise<{ data?: { position: number[] }; error?: unknown }>,
    target: Place,
  ) {
    const { data, error } = await answer;
    const light = lights[index];
    if (!light) return;
    if (!data) {
      const problem = error as Problem | undefined;
      notices.say('warning', problem?.title ?? 'Not placed', problem?.detail ?? '');
      return;
    }
    const at = (name: string) => pointer('lights', index, name);
    void shot.commit(
      [
        { op: 'replace', path: at('position'), value: data.position },
        { op: 'replace', path: at('target'), value: target },
      ],
      `place ${light.name}`,
    );
  }

  function byHighlight(index: number) {
    chosen.click = {
      said: 'click where the highlight should be seen',
      done: ({ position, normal }) => {
        const [light, eye] = [lights[index], shot.document?.camera.position];
        if (!light || !eye) return;
        const distance = away(light.position, position);
        const body = { point: position, normal, eye, distance };
        void stand(index, client.POST('/api/placing/highlight', { body }), position);
      },
    };
  }

  function byShadow(index: number) {
    chosen.click = {
      said: 'click what is to cast the shadow',
      done: ({ position: edge }) => {
        chosen.click = {
          said: 'and now where the shadow should fall',
          done: ({ position: shadow }) => {
            const light = lights[index];
            if (!light) return;
            const body = { edge, shadow, distance: away(light.position, edge) };
            void stand(index, client.POST('/api/placing/shadow', { body }), edge);
          },
        };
      },
    };
  }

  function add() {
    const names = new Set(lights.map((light) => light.name));
    let name = 'lamp';
    for (let n = 2; names.has(name); n++) name = `lamp ${n}`;
    void shot.commit([{ op: 'add', path: '/lights/-', value: { name, shape: 'sphere' } }], `add ${name}`);
    opened = name;
  }
</script>

{#each lights as light, index (light.name)}
  <div class="row">
    <button class="plain name" aria-expanded={opened === light.name} onclick={() => open(light)}
      >{light.name}</button
    >
    <button
      class="plain act"
      role="switch"
      aria-checked={light.on}
      aria-label="{light.name} on or off"
      onclick={() => set(index, 'on', !light.on, `${light.name} ${light.on ? 'off' : 'on'}`)}
      >{light.on ? 'on' : 'off'}</button
    >
    <MemberNumber
      path={pointer('lights', index, 'power')}
      value={light.power}
      label="{light.name} power"
      unit={light.shape === 'sun' ? 'W/m²' : 'W'}
      low={0}
      high={1000}
      oninput={(value) => tryOut(index, 'power', value)}
      onchange={(value) => set(index, 'power', value, light.name)}
    />
  </div>
  {#if opened === light.name}
    <div class="more">
      <div class="row">
        <span>shape</span>
        <Choice
          value={light.shape}
          label="shape of {light.name}"
          options={SHAPES.map((each) => ({ value: each, text: each }))}
          onchange={(value) => set(index, 'shape', value, `${light.name}: ${value}`)}
        />
      </div>
      {#each NUMBERS[light.shape] ?? [] as [name, label, unit, low, high] (name)}
        <div class="row">
          <span>{label}</span>
          <MemberNumber
            path={pointer('lights', index, name)}
            value={Number(light[name as keyof typeof light])}
            label="{light.name} {label}"
            {unit}
            {low}
            {high}
            oninput={(value) => tryOut(index, name, value)}
            onchange={(value) => set(index, name, value, `${light.name}: ${label}`)}
          />
        </div>
      {/each}
      <div class="row">
        <span>colour</span>
        <ColourField
          value={[...light.colour]}
          label="colour of {light.name}"
          oninput={(value) => tryOut(index, 'colour', value)}
          onchange={(value) => set(index, 'colour', value, `${light.name}: colour`)}
        />
      </div>
      <div class="row places">
        <button class="plain act" onclick={() => byHighlight(index)}>place by its highlight</button>
        <button class="plain act" onclick={() => byShadow(index)}>by its shadow</button>
      </div>
      {#each ['position', 'target'] as const as what (what)}
        <div class="row">
          <span>{what === 'position' ? 'stands at' : 'faces'}</span>
          <span class="xyz">
            {#each light[what] as part, axis (axis)}
              <MemberNumber
                path={pointer('lights', index, what, axis)}
                value={part}
                label="{light.name} {what} {'xyz'[axis]}"
                unit={axis === 2 ? 'm' : ''}
                oninput={(value) =>
                  tryOut(
                    index,
                    what,
                    light[what].map((x, i) => (i === axis ? value : x)),
                  )}
                onchange={(value) =>
                  set(
                    index,
                    what,
                    light[what].map((x, i) => (i === axis ? value : x)),
                    `${light.name}: ${what}`,
                  )}
              />
            {/each}
          </span>
        </div>
      {/each}
      <div class="row">
        <span>moved over time</span>
        <RecordButton list="lights" id={light.id} name={light.name} />
      </div>
      <GroupChoice
        path={pointer('lights', index, 'group')}
        value={light.group}
        label="light group of {light.name}"
      />
      <div class="row">
        <button class="plain act" onclick={() => set(index, 'visible', !light.visible, `${light.name}: seen`)}
          >{light.visible ? 'seen by the camera' : 'not seen by the camera'}</button
        >
        <button
          class="plain act"
          aria-label="take away {light.name}"
          onclick={() =>
            void shot.commit([{ op: 'remove', path: pointer('lights', index) }], `take ${light.name} away`)}
          >take away</button
        >
      </div>
    </div>
  {/if}
{/each}
<button class="plain act" onclick={add}>+ lamp</button>

<style>
  .more {
    padding-left: 12px;
    border-left: 1px solid var(--line);
    color: var(--quiet);
  }
  .act {
    color: var(--amber);
  }
  .name:hover {
    color: var(--amber);
  }
  .xyz {
    display: flex;
    gap: 10px;
  }
</style>
