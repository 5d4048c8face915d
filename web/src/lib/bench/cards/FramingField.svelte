<script lang="ts">
	// The framing of a clip: position, scale, rotation, colours, and the match to the other side.
	import Button from '$lib/ui/Button.svelte';
	import { untrack } from 'svelte';
	import type { Framing } from '$lib/api/client';
	import CardField from './CardField.svelte';
	import NumberField from '$lib/ui/NumberField.svelte';
	import { capitalised, rounded } from '$lib/ui/numbers';
	import type { Bench } from '$lib/bench/bench.svelte';
	import type { ClipSide } from '$lib/bench/cutTypes';
	import type { Compare } from '$lib/bench/view.svelte';
	import Select from '$lib/ui/Select.svelte';

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
			label: 'Scale',
			unit: '%',
			scale: 100,
			step: 0.01,
			low: 0.1,
			high: 10,
			rest: 1
		},
		{
			name: 'x',
			label: 'Position X',
			unit: '% w',
			scale: 100,
			step: 0.005,
			low: -2,
			high: 2,
			rest: 0
		},
		{
			name: 'y',
			label: 'Position Y',
			unit: '% h',
			scale: 100,
			step: 0.005,
			low: -2,
			high: 2,
			rest: 0
		},
		{
			name: 'turn',
			label: 'Rotation',
			unit: '°',
			scale: 1,
			step: 0.5,
			low: -360,
			high: 360,
			rest: 0
		}
	];
	const VIEWS_WHILE_FRAMING: { value: Compare; name: string }[] = [
		{ value: 'cut frames', name: 'Overlay 50 %' },
		{ value: 'cut difference', name: 'Difference' },
		{ value: 'cut tints', name: 'Tinted' },
		{ value: 'result', name: 'Result' }
	];
	const ORIGINAL: Framing = {
		scale: 1,
		x: 0,
		y: 0,
		turn: 0,
		gain: [1, 1, 1],
		offset: [0, 0, 0]
	};

	let open = $state(false);
	let framing = $derived(bench.transition.framing.now[side]);
	let graded = $derived(
		framing.gain?.some((each) => each !== 1) || framing.offset?.some((each) => each !== 0)
	);
	let summary = $derived.by(() => {
		const parts = [];
		if (framing.scale !== 1) parts.push(`${rounded((framing.scale ?? 1) * 100, 0.1)} %`);
		if (framing.turn) parts.push(`${rounded(framing.turn, 0.1)}°`);
		if (framing.x || framing.y) parts.push('moved');
		if (graded) parts.push('colours');
		return capitalised(parts.join(', ') || 'original');
	});

	// The box on the picture stays where a press on the picture closed the panel.
	let pressedPicture = false;
	$effect(() => {
		if (!open) return;
		untrack(() => bench.view.frame(side));
		return () => {
			if (!pressedPicture) bench.view.frame(null);
		};
	});

	function onpointerdowncapture(event: PointerEvent) {
		pressedPicture = (event.target as Element).closest('[data-picture]') !== null;
	}
</script>

<svelte:window {onpointerdowncapture} onkeydowncapture={() => (pressedPicture = false)} />

<CardField name="Framing" {side} {summary} width={230} bind:open>
	{#each PARTS as part (part.name)}
		<div class="line">
			<span class="text-quiet">{part.label}</span>
			<NumberField
				label="Framing of the {side} clip: {part.label}"
				value={framing[part.name] ?? part.rest}
				unit={part.unit}
				scale={part.scale}
				step={part.step}
				low={part.low}
				high={part.high}
				rest={part.rest}
				onchange={(value) => bench.transition.framing.set(side, { ...framing, [part.name]: value })}
			/>
		</div>
	{/each}
	{#if side === 'incoming'}
		<Button
			tip="Find details that both cut frames show, and align them"
			onclick={() => bench.transition.framing.match('placement')}>Match position and scale</Button
		>
		<Button
			tip="Adjust brightness and contrast to the outgoing frame"
			onclick={() => bench.transition.framing.match('colours')}>Match colours</Button
		>
	{/if}
	<Button
		disabled={summary === 'Original'}
		onclick={() => bench.transition.framing.set(side, ORIGINAL)}>Reset framing</Button
	>
	<div class="line">
		<span class="text-quiet">View</span>
		<Select
			label="View while framing"
			value={bench.view.compare}
			items={VIEWS_WHILE_FRAMING}
			onchange={(compare) => bench.view.setCompare(compare)}
		/>
	</div>
</CardField>
