<script lang="ts" module>
	import { movesOf as kindOfMove, type Envelope as AnyEnvelope } from './recipe';

	const ROWS = { hold: 0, swell: 2, travel: 1, keyframes: 3, follow: 1 };

	/** How many rows the tools of a curve take. */
	export function rowsOf(envelope: AnyEnvelope): number {
		return 2 + ROWS[kindOfMove(envelope)];
	}
</script>

<script lang="ts">
	// The animation of a parameter: kind of envelope, easings and keyframes; mirror, copy, paste.
	import type { Parameter } from '$lib/api/client';
	import type { Axis } from './axis';
	import type { Bench, ClipSide } from './bench.svelte';
	import { clipboard, copiedName } from './clipboard.svelte';
	import { capitalised } from '$lib/ui/numbers';
	import EasingPicker from './EasingPicker.svelte';
	import { canMirror, mirrored, fittedTo } from './envelopes';
	import KeyframeRows from './KeyframeRows.svelte';
	import {
		ANIMATIONS,
		movesOf,
		nameOf,
		withMoves,
		type Easing,
		type Envelope,
		type Follow,
		type Keyframes,
		type Moves,
		type Filter,
		type Swell
	} from './recipe';

	type Props = {
		bench: Bench;
		axis: Axis;
		envelope: Envelope;
		parameter: Parameter;
		/** Whose parameter it is, as text. */
		owner: string;
		id: string;
		/** The moving filters that it can follow. */
		movers?: Filter[];
		/** The side of the cut that the curve is about, where it is one. */
		only?: ClipSide;
		/** The value at the shown frame. */
		current: number;
		handle: string;
		onchange: (next: Envelope) => void;
	};
	let {
		bench,
		axis,
		envelope,
		parameter,
		owner,
		id,
		movers = [],
		only,
		current,
		handle = $bindable(),
		onchange
	}: Props = $props();

	const MOVES: Moves[] = ['hold', 'swell', 'travel', 'keyframes', 'follow'];
	let moves = $derived(MOVES.filter((each) => each !== 'follow' || movers.length));
	let followed = $derived(
		typeof envelope === 'object' && 'filter' in envelope ? (envelope as Follow) : undefined
	);
	let keyframes = $derived(movesOf(envelope) === 'keyframes' ? (envelope as Keyframes) : undefined);
	let copied = $derived(clipboard.copied?.kind === 'curve' ? clipboard.copied : null);
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
		<select
			class="choice moves"
			aria-label="Animation of {parameter.label}"
			value={movesOf(envelope)}
			onchange={(event) =>
				onchange(withMoves(envelope, event.currentTarget.value as Moves, parameter, movers[0]?.id))}
		>
			{#each moves as each (each)}<option value={each}>{ANIMATIONS[each]}</option>{/each}
		</select>
	</div>
	{#if followed}
		<div class="row">
			<span class="small">Filter</span>
			<select
				class="choice moves"
				aria-label="Followed filter"
				value={followed.filter}
				onchange={(event) =>
					followed && onchange({ ...followed, filter: event.currentTarget.value })}
			>
				{#each movers as each (each.id)}<option value={each.id}
						>{capitalised(nameOf(bench.catalogue, each))}</option
					>{/each}
			</select>
		</div>
	{/if}
	{#if keyframes}
		<KeyframeRows
			{bench}
			{axis}
			{keyframes}
			{parameter}
			{current}
			bind:chosen={handle}
			{onchange}
		/>
	{/if}
	{#each easings as { name, label, easing } (name)}
		<EasingPicker
			id="{id}-{name}"
			{label}
			{easing}
			catalogue={bench.catalogue}
			onchange={(next) => onchange({ ...(envelope as Swell), [name]: next } as Envelope)}
		/>
	{/each}
	<div class="row curve">
		<span class="small">Curve</span>
		{#if !only && canMirror(envelope)}
			<button
				class="bare-button small"
				title="Mirror the outgoing side onto the incoming side"
				onclick={() => onchange(mirrored(envelope))}>Mirror</button
			>
		{/if}
		<button
			class="bare-button small"
			disabled={movesOf(envelope) === 'hold'}
			title="Copy this curve"
			onclick={copy}>Copy</button
		>
		<button
			class="bare-button small"
			disabled={!copied}
			title={copied ? `Paste the ${copiedName(copied)}` : 'No curve has been copied'}
			onclick={() => copied && onchange(fittedTo(copied.envelope, envelope))}>Paste</button
		>
		<button
			class="bare-button small"
			class:pressed={bench.showSpeed}
			aria-pressed={bench.showSpeed}
			title="Show the speed of the curve, dashed (V)"
			onclick={() => (bench.showSpeed = !bench.showSpeed)}>Speed</button
		>
	</div>
</div>

<style>
	.tools :global(.row) {
		margin-left: 12px;
	}
	.row {
		display: flex;
		align-items: center;
		gap: 6px;
		height: var(--row);
	}
	.row > span {
		flex: none;
		min-width: 54px;
		white-space: nowrap;
		color: var(--color-quiet);
	}
	.moves {
		flex: 1;
	}
	.curve {
		gap: 2px;
	}
	.curve .pressed {
		background: var(--color-line);
		color: var(--color-ink);
	}
</style>
