<script lang="ts" module>
	import { movesOf as kindOfMove, type Envelope as AnyEnvelope } from './recipe';

	const ROWS = { hold: 0, swell: 2, travel: 1, keys: 3, follow: 1 };

	/** How many rows the tools of a curve take. */
	export function rowsOf(envelope: AnyEnvelope): number {
		return 2 + ROWS[kindOfMove(envelope)];
	}
</script>

<script lang="ts">
	// How a parameter moves: the kind of its envelope, its easings and keys; mirror, copy, paste.
	import type { Parameter } from '$lib/api/client';
	import type { Axis } from './axis';
	import type { Bench, ClipSide } from './bench.svelte';
	import { clipboard, heldName } from './clipboard.svelte';
	import EasingPicker from './EasingPicker.svelte';
	import { canMirror, mirrored, reshapedLike } from './envelopes';
	import KeyRows from './KeyRows.svelte';
	import {
		movesOf,
		withMoves,
		type Easing,
		type Envelope,
		type Follow,
		type Keys,
		type Moves,
		type Pass,
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
		/** The passes that it can follow. */
		movers?: Pass[];
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

	const MOVES: Moves[] = ['hold', 'swell', 'travel', 'keys', 'follow'];
	let moves = $derived(MOVES.filter((each) => each !== 'follow' || movers.length));
	let followed = $derived(
		typeof envelope === 'object' && 'pass' in envelope ? (envelope as Follow) : undefined
	);
	let keys = $derived(movesOf(envelope) === 'keys' ? (envelope as Keys) : undefined);
	let copied = $derived(clipboard.held?.kind === 'curve' ? clipboard.held : null);
	let easings = $derived.by<{ name: string; easing: Easing }[]>(() => {
		if (typeof envelope !== 'object' || Array.isArray(envelope)) return [];
		if (envelope.kind === 'travel') return [{ name: 'shape', easing: envelope.shape }];
		if (envelope.kind !== 'swell') return [];
		const both = [
			{ name: 'rise', easing: envelope.rise, side: 'outgoing' },
			{ name: 'fall', easing: envelope.fall, side: 'incoming' }
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
		<span class="small">moves</span>
		<select
			class="choice moves"
			aria-label="How {parameter.label} moves"
			value={movesOf(envelope)}
			onchange={(event) =>
				onchange(withMoves(envelope, event.currentTarget.value as Moves, parameter, movers[0]?.id))}
		>
			{#each moves as each (each)}<option value={each}>{each}</option>{/each}
		</select>
	</div>
	{#if followed}
		<div class="row">
			<span class="small">pass</span>
			<select
				class="choice moves"
				aria-label="Pass that is followed"
				value={followed.pass}
				onchange={(event) => followed && onchange({ ...followed, pass: event.currentTarget.value })}
			>
				{#each movers as each (each.id)}<option value={each.id}>{each.id}</option>{/each}
			</select>
		</div>
	{/if}
	{#if keys}
		<KeyRows {bench} {axis} {keys} {parameter} {current} bind:chosen={handle} {onchange} />
	{/if}
	{#each easings as { name, easing } (name)}
		<EasingPicker
			id="{id}-{name}"
			label={name}
			{easing}
			catalogue={bench.catalogue}
			onchange={(next) => onchange({ ...(envelope as Swell), [name]: next } as Envelope)}
		/>
	{/each}
	<div class="row curve">
		<span class="small">curve</span>
		{#if !only && canMirror(envelope)}
			<button
				class="bare-button small"
				title="Mirror the outgoing side to the incoming side"
				onclick={() => onchange(mirrored(envelope))}>mirror →</button
			>
		{/if}
		<button
			class="bare-button small"
			disabled={movesOf(envelope) === 'hold'}
			title="Copy this curve for another lane"
			onclick={copy}>copy</button
		>
		<button
			class="bare-button small"
			disabled={!copied}
			title={copied ? `Paste the ${heldName(copied)}` : 'No curve is copied'}
			onclick={() => copied && onchange(reshapedLike(copied.envelope, envelope))}>paste</button
		>
		<button
			class="bare-button small"
			class:pressed={bench.showSpeed}
			aria-pressed={bench.showSpeed}
			title="Show how fast the curve moves, dashed (V)"
			onclick={() => (bench.showSpeed = !bench.showSpeed)}>speed</button
		>
	</div>
</div>

<style>
	.tools :global(.row) {
		margin-left: 22px;
	}
	.row {
		display: flex;
		align-items: center;
		gap: 6px;
		height: var(--row);
	}
	.row > span {
		width: 34px;
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
