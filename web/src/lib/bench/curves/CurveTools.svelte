<script lang="ts" module>
	import Button from '$lib/ui/Button.svelte';
	import { movesOf as kindOfMove, type Envelope as AnyEnvelope } from '$lib/recipe/recipe';

	const ROWS = { hold: 0, swell: 2, travel: 1, keyframes: 3, follow: 1 };

	/** How many rows the tools of a curve take. */
	export function rowsOf(envelope: AnyEnvelope): number {
		return 2 + ROWS[kindOfMove(envelope)];
	}
</script>

<script lang="ts">
	// The animation of a parameter: kind of envelope, easings and keyframes; mirror, copy, paste.
	import type { Parameter } from '$lib/api/client';
	import type { Axis } from '$lib/bench/strip/axis';
	import type { Bench } from '$lib/bench/bench.svelte';
	import type { ClipSide } from '$lib/bench/cutTypes';
	import { clipboard, copiedName } from '$lib/bench/clipboard.svelte';

	import Select from '$lib/ui/Select.svelte';
	import EasingPicker from './EasingPicker.svelte';
	import { canCopySide, canPaste, fittedTo } from '$lib/recipe/envelopes';
	import { isInFramesAnywhere } from '$lib/recipe/times';
	import type { CurveOwner } from './curveOwner';
	import type { PickedKeyframes } from './pickedKeyframes.svelte';
	import TimesField from './TimesField.svelte';
	import KeyframeRows from './KeyframeRows.svelte';
	import {
		ANIMATIONS,
		movesOf,
		withMoves,
		type Easing,
		type Envelope,
		type Follow,
		type Keyframes,
		type Moves,
		type Mover,
		type Swell
	} from '$lib/recipe/recipe';

	type Props = {
		bench: Bench;
		axis: Axis;
		envelope: Envelope;
		parameter: Parameter;
		/** Whose parameter it is, as text. */
		owner: string;
		/** What it can follow. */
		movers?: Mover[];
		/** The side of the cut that the curve is about, where it is one. */
		only?: ClipSide;
		curve: CurveOwner;
		picked: PickedKeyframes;
		handle: string;
		onchange: (next: Envelope) => void;
	};
	let {
		bench,
		axis,
		envelope,
		parameter,
		owner,
		movers = [],
		only,
		curve,
		picked,
		handle = $bindable(),
		onchange
	}: Props = $props();

	const MOVES: Moves[] = ['hold', 'swell', 'travel', 'keyframes', 'follow'];
	const POINT_MOVES: Moves[] = ['hold', 'keyframes', 'follow'];
	let isPoint = $derived(parameter.control === 'point');
	let moves = $derived(
		(isPoint ? POINT_MOVES : MOVES)
			.filter((each) => each !== 'follow' || movers.length)
			.map((value) => ({
				value,
				name: isPoint && value === 'follow' ? 'Follow point' : ANIMATIONS[value]
			}))
	);
	let followed = $derived(
		typeof envelope === 'object' && 'filter' in envelope ? (envelope as Follow) : undefined
	);
	let keyframes = $derived(movesOf(envelope) === 'keyframes' ? (envelope as Keyframes) : undefined);
	let copied = $derived(
		clipboard.copied?.kind === 'curve' && canPaste(clipboard.copied.envelope, envelope)
			? clipboard.copied
			: null
	);
	let easings = $derived.by<{ name: string; label: string; easing: Easing }[]>(() => {
		if (typeof envelope !== 'object' || Array.isArray(envelope)) return [];
		if (envelope.kind === 'travel')
			return [{ name: 'easing', label: 'Easing', easing: envelope.easing }];
		if (envelope.kind !== 'swell') return [];
		const both = [
			{ name: 'rise', label: 'Rise', easing: envelope.rise, side: 'outgoing' },
			{ name: 'fall', label: 'Fall', easing: envelope.fall, side: 'incoming' }
		];
		return both.filter(({ side }) => !only || only === side);
	});

	function copy() {
		const title = `${owner}, ${parameter.label.toLowerCase()}`;
		clipboard.put({ kind: 'curve', title, envelope });
	}
</script>

<div class="tools">
	<div class="row">
		<span class="small">Animation</span>
		<Select
			wide
			label="Animation of {parameter.label}"
			value={movesOf(envelope)}
			items={moves}
			onchange={(next) => onchange(withMoves(envelope, next, parameter, movers[0]?.id))}
		/>
		<TimesField
			{bench}
			{axis}
			{envelope}
			{curve}
			isInFrames={isInFramesAnywhere(curve.read(bench.transition.recipe) ?? 0)}
			name="{owner}, {parameter.label.toLowerCase()}"
			{onchange}
		/>
	</div>
	{#if followed}
		<div class="row">
			<span class="small">Filter</span>
			<Select
				wide
				label="Followed filter"
				value={followed.filter}
				items={movers.map((each) => ({ value: each.id, name: each.name }))}
				onchange={(filter) => followed && onchange({ ...followed, filter })}
			/>
		</div>
	{/if}
	{#if keyframes}
		<KeyframeRows
			{bench}
			{axis}
			{keyframes}
			{parameter}
			{curve}
			{picked}
			bind:chosen={handle}
			{onchange}
		/>
	{/if}
	{#each easings as { name, label, easing } (name)}
		<EasingPicker
			{label}
			{easing}
			onevery={(easing) => void bench.dials.ease(easing)}
			onchange={(next) => onchange({ ...(envelope as Swell), [name]: next })}
		/>
	{/each}
	<div class="row curve" role="group" aria-label="The curve">
		{#if !only && canCopySide(envelope)}
			<Button
				kind="bare"
				low
				tip="Mirror the outgoing side onto the incoming side"
				onclick={() => void bench.values.copySide(curve, 'mirrored')}>Mirror</Button
			>
			<Button
				kind="bare"
				low
				tip="Repeat the outgoing side on the incoming side, as it is"
				onclick={() => void bench.values.copySide(curve, 'repeated')}>Repeat</Button
			>
		{/if}
		<Button kind="bare" low disabled={movesOf(envelope) === 'hold'} onclick={copy}>Copy</Button>
		<Button
			kind="bare"
			low
			disabled={!copied}
			tip={copied ? `Paste the ${copiedName(copied)}` : 'No curve for it has been copied'}
			onclick={() => copied && onchange(fittedTo(copied.envelope, envelope))}>Paste</Button
		>
		<Button
			kind="bare"
			low
			pressed={bench.view.showSpeed}
			tip="Show the speed of the curve, dashed (V)"
			onclick={() => (bench.view.showSpeed = !bench.view.showSpeed)}>Speed</Button
		>
	</div>
</div>

<style>
	.row {
		display: flex;
		align-items: center;
		gap: 6px;
		height: var(--row);
		padding-left: 12px;
	}
	.row > span {
		flex: none;
		min-width: 54px;
		white-space: nowrap;
		color: var(--color-quiet);
	}
	.curve {
		justify-content: space-between;
		gap: 0;
		padding-left: 6px;
	}
</style>
