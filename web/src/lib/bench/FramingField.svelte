<script lang="ts">
	// How a clip stands in the frame: scale, place, turn, colours, and the match to the other side.
	import { untrack } from 'svelte';
	import type { Framing } from '$lib/api/client';
	import CardField from './CardField.svelte';
	import NumberField from '$lib/ui/NumberField.svelte';
	import { rounded } from '$lib/ui/numbers';
	import type { Bench, ClipSide, Compare } from './bench.svelte';

	let { bench, side }: { bench: Bench; side: ClipSide } = $props();

	type Part = 'scale' | 'x' | 'y' | 'turn';
	const PARTS: {
		name: Part;
		label: string;
		unit: string;
		scale: number;
		step: number;
		low: number;
		high: number;
		rest: number;
	}[] = [
		{
			name: 'scale',
			label: 'scale',
			unit: '%',
			scale: 100,
			step: 0.01,
			low: 0.1,
			high: 10,
			rest: 1
		},
		{ name: 'x', label: 'across', unit: '% w', scale: 100, step: 0.005, low: -2, high: 2, rest: 0 },
		{ name: 'y', label: 'down', unit: '% h', scale: 100, step: 0.005, low: -2, high: 2, rest: 0 },
		{ name: 'turn', label: 'turn', unit: '°', scale: 1, step: 0.5, low: -360, high: 360, rest: 0 }
	];
	const AS_IT_IS: Framing = {
		scale: 1,
		x: 0,
		y: 0,
		turn: 0,
		gain: [1, 1, 1],
		offset: [0, 0, 0]
	};

	let open = $state(false);
	let framing = $derived(bench.framing[side]);
	let graded = $derived(
		framing.gain?.some((each) => each !== 1) || framing.offset?.some((each) => each !== 0)
	);
	let summary = $derived.by(() => {
		const said = [];
		if (framing.scale !== 1) said.push(`${rounded((framing.scale ?? 1) * 100, 0.1)} %`);
		if (framing.turn) said.push(`${rounded(framing.turn, 0.1)}°`);
		if (framing.x || framing.y) said.push('moved');
		if (graded) said.push('graded');
		return said.join(', ') || 'as it is';
	});

	// While framing, the two cut frames over each other are what one needs to see.
	$effect(() => {
		if (!open) return;
		const before = untrack(() => bench.compare);
		untrack(() => bench.setCompare('cut frames'));
		return () => bench.setCompare(before);
	});
</script>

<CardField name="Framing" {side} {summary} width={190} bind:open>
	{#each PARTS as part (part.name)}
		<div class="line">
			<span class="quiet">{part.label}</span>
			<NumberField
				label="Framing of the {side} clip: {part.label}"
				value={framing[part.name] ?? part.rest}
				unit={part.unit}
				scale={part.scale}
				step={part.step}
				low={part.low}
				high={part.high}
				rest={part.rest}
				onchange={(value) => bench.setFraming(side, { ...framing, [part.name]: value })}
			/>
		</div>
	{/each}
	{#if side === 'incoming'}
		<button
			class="plain-button"
			title="Find what both cut frames show, and lay it at the same size and place"
			onclick={() => bench.match('placement')}>Match size and place</button
		>
		<button
			class="plain-button"
			title="The mean and spread of the outgoing frame's colours"
			onclick={() => bench.match('colours')}>Match colours</button
		>
	{/if}
	<button
		class="plain-button"
		disabled={summary === 'as it is'}
		onclick={() => bench.setFraming(side, AS_IT_IS)}>As it is</button
	>
	<div class="line">
		<span class="quiet">compare</span>
		<select
			class="choice"
			aria-label="How the two cut frames are compared"
			value={bench.compare}
			onchange={(event) => bench.setCompare(event.currentTarget.value as Compare)}
		>
			<option value="cut frames">half and half</option>
			<option value="cut difference">difference</option>
			<option value="rendered">as rendered</option>
		</select>
	</div>
</CardField>
