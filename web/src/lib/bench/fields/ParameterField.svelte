<script lang="ts">
	// The control of a parameter, chosen by the catalogue.
	import Button from '$lib/ui/Button.svelte';
	import Check from '$lib/ui/Check.svelte';
	import Select from '$lib/ui/Select.svelte';
	import type { Parameter } from '$lib/api/client';
	import NumberField from '$lib/ui/NumberField.svelte';
	import { capitalised } from '$lib/ui/numbers';
	import AngleDial from './AngleDial.svelte';
	import type { Bench } from '$lib/bench/bench.svelte';
	import { withPoint } from '$lib/bench/points';
	import MatteField, { type Matte } from './MatteField.svelte';
	import { freshSeed, mainValue, movesOf, withValue, type Envelope } from '$lib/recipe/recipe';
	import { inPixels, shownAs } from '$lib/recipe/units';

	type Props = {
		bench: Bench;
		parameter: Parameter;
		owner: string;
		value: unknown;
		/** Where a point lies in the shown frame. */
		point?: [number, number];
		onchange: (next: Envelope) => void;
	};
	let { bench, parameter, owner, value, point, onchange }: Props = $props();

	let label = $derived(`${owner}: ${parameter.label}`);
	let envelope = $derived(value as Envelope);
	let shown = $derived(shownAs(parameter));
	let main = $derived(parameter.control === 'matte' ? 0 : (point ?? mainValue(envelope)));

	function unitOf(number: number): string {
		if (movesOf(envelope) === 'follow') return '° shutter';
		const pixels = inPixels(
			parameter,
			number,
			bench.transition.cut.width,
			bench.transition.cut.height
		);
		return pixels && parameter.unit !== 'frames' ? `${shown.unit} · ${pixels}` : shown.unit;
	}

	function setPart(part: 0 | 1, next: number) {
		const pair: [number, number] = Array.isArray(main) ? [main[0], main[1]] : [main, main];
		pair[part] = next;
		onchange(withPoint(bench, envelope, pair));
	}
</script>

{#if parameter.choices}
	<Select
		{label}
		value={value as string}
		items={parameter.choices.map((each) => ({
			value: each,
			name: capitalised(each.replaceAll('_', ' '))
		}))}
		{onchange}
	/>
{:else if parameter.control === 'switch'}
	<Check {label} checked={value as boolean} {onchange} />
{:else if parameter.control === 'colour'}
	<input
		type="color"
		class="colour"
		aria-label={label}
		value={value as string}
		oninput={(event) => onchange(event.currentTarget.value)}
	/>
{:else if parameter.control === 'matte'}
	<MatteField
		matte={value as Matte}
		catalogue={bench.catalogue}
		onchange={(next) => onchange(next as unknown as Envelope)}
	/>
{:else if parameter.control === 'seed'}
	<NumberField
		{label}
		value={value as number}
		low={0}
		high={parameter.high ?? undefined}
		whole
		{onchange}
	/>
	<Button low onclick={() => onchange(freshSeed())}>New seed</Button>
{:else if point && movesOf(envelope) === 'follow'}
	<span class="small text-quiet">Follows</span>
{:else if Array.isArray(main)}
	{#each [0, 1] as const as part (part)}
		<NumberField
			label="{label} {part ? 'Y' : 'X'}"
			value={main[part]}
			unit="%"
			scale={100}
			low={parameter.low ?? undefined}
			high={parameter.high ?? undefined}
			step={parameter.step ?? 0.01}
			onchange={(next) => setPart(part, next)}
		/>
	{/each}
{:else if movesOf(envelope) === 'keyframes'}
	<span class="small text-quiet">Keyframes</span>
{:else}
	{#if parameter.control === 'angle' && movesOf(envelope) === 'hold'}
		<AngleDial {label} value={main} {onchange} />
	{/if}
	<NumberField
		{label}
		value={main}
		unit={unitOf(main)}
		scale={movesOf(envelope) === 'follow' ? 1 : shown.scale}
		low={movesOf(envelope) === 'follow' ? 0 : (parameter.low ?? undefined)}
		high={movesOf(envelope) === 'follow' ? 3600 : (parameter.high ?? undefined)}
		step={movesOf(envelope) === 'follow' ? 10 : shown.step}
		rest={movesOf(envelope) === 'hold' ? (parameter.rest ?? null) : 0}
		onchange={(next) => onchange(withValue(envelope, next, parameter))}
	/>
{/if}

<style>
	.colour {
		width: 44px;
		height: 24px;
		padding: 1px;
		border: 1px solid var(--color-edge);
		border-radius: 4px;
		background: var(--color-page);
	}
</style>
