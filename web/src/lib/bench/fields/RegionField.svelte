<script lang="ts">
	// Where in the picture a filter acts: everywhere, on the subject or its background, in a shape.
	import type { Bench } from '$lib/bench/bench.svelte';
	import type { Filter } from '$lib/recipe/recipe';
	import { movesOf } from '$lib/recipe/recipe';
	import { pointAt, withPoint } from '$lib/bench/points';
	import {
		ofKind,
		REGIONS,
		regionOf,
		shapeOf,
		withRegion,
		type Region,
		type RegionKind
	} from '$lib/recipe/region';
	import Check from '$lib/ui/Check.svelte';
	import NumberField from '$lib/ui/NumberField.svelte';
	import Select from '$lib/ui/Select.svelte';

	type Props = { bench: Bench; filter: Filter; title: string };
	let { bench, filter, title }: Props = $props();

	let region = $derived(regionOf(filter));
	let shape = $derived(shapeOf(filter));
	let items = $derived(
		filter.side === 'subject' ? REGIONS.filter(({ value }) => value !== 'background') : REGIONS
	);

	function set(next: Region | null, what = '') {
		const label = `${title}: region${what}`;
		bench.transition.changeFilter(filter.id, label, (old) => withRegion(old, next));
	}

	const PAIRS = [
		{ field: 'centre', n: 0, name: 'Centre X', unit: '% w' },
		{ field: 'centre', n: 1, name: 'Centre Y', unit: '% h' },
		{ field: 'size', n: 0, name: 'Width', unit: '% h' },
		{ field: 'size', n: 1, name: 'Height', unit: '% h' }
	] as const;

	const MOVES: { value: 'hold' | 'keyframes'; name: string }[] = [
		{ value: 'hold', name: 'Constant' },
		{ value: 'keyframes', name: 'Keyframes' }
	];

	/** The centre or the size in the shown frame. */
	function pairNow(field: 'centre' | 'size'): [number, number] {
		return pointAt(bench, filter, `region.${field}`);
	}

	function setPart(field: 'centre' | 'size', n: number, value: number) {
		if (!shape) return;
		const pair: [number, number] = [...pairNow(field)];
		pair[n] = value;
		set({ ...shape, [field]: withPoint(bench, shape[field], pair) }, ` ${field}`);
	}

	/** Animate the centre or the size from where it is, or keep it where it is in the shown frame. */
	function setMoves(field: 'centre' | 'size', moves: 'hold' | 'keyframes') {
		if (!shape) return;
		const now = pairNow(field);
		if (moves === 'hold') {
			set({ ...shape, [field]: now }, ` ${field}, constant`);
			return;
		}
		const next = withPoint(bench, { kind: 'keyframes', keyframes: [] }, now);
		set({ ...shape, [field]: next }, ` ${field}, keyframes`);
	}
</script>

<div class="parameter">
	<span class="label small">Region</span>
	<Select
		label="Region of {title.toLowerCase()}"
		value={(region?.kind ?? 'everywhere') as RegionKind}
		{items}
		onchange={(kind) => set(ofKind(region, kind), ` ${kind}`)}
	/>
</div>
{#if shape}
	{#each PAIRS as { field, n, name, unit } (name)}
		{#if n === 0}
			<div class="parameter">
				<span class="label small">{field === 'centre' ? 'Centre' : 'Size'}</span>
				<Select
					label="{title} region: animation of the {field}"
					tip="With keyframes, what is set holds on the shown frame"
					value={movesOf(shape[field]) === 'keyframes' ? 'keyframes' : 'hold'}
					items={MOVES}
					onchange={(moves) => setMoves(field, moves)}
				/>
			</div>
		{/if}
		<div class="parameter">
			<span class="label small">{name}</span>
			<NumberField
				label="{title} region: {name.toLowerCase()}"
				value={pairNow(field)[n] ?? 0.5}
				{unit}
				scale={100}
				step={0.01}
				low={field === 'size' ? 0.01 : -1}
				high={field === 'size' ? 4 : 2}
				onchange={(value) => setPart(field, n, value)}
			/>
		</div>
	{/each}
	<div class="parameter">
		<span class="label small">Feather</span>
		<NumberField
			label="{title} region: feather"
			value={shape.feather}
			unit="% h"
			scale={100}
			step={0.01}
			low={0}
			high={2}
			onchange={(feather) => set({ ...shape, feather }, ' feather')}
		/>
	</div>
	<div class="parameter">
		<span class="label small">Outside of it</span>
		<Check
			label="{title} region: act outside of it"
			checked={shape.invert}
			onchange={(invert) => set({ ...shape, invert }, ' side')}
		/>
	</div>
{/if}
