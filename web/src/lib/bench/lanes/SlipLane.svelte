<script lang="ts">
	// The slips of a clip's background: pieces of the window in which it comes from another time.
	import type { Bench } from '$lib/bench/bench.svelte';
	import { tOf, uOf, type Axis } from '$lib/bench/strip/axis';
	import type { ClipSide } from '$lib/bench/cutTypes';
	import Button from '$lib/ui/Button.svelte';
	import NumberField from '$lib/ui/NumberField.svelte';
	import { clamped, fromCut } from '$lib/ui/numbers';
	import Lane from './Lane.svelte';
	import { CLOSED_PX, ROW_PX } from './laneSizes';
	import { placedTimes, SPAN_TIMES, statedTimes } from '$lib/recipe/times';
	import { retimeOf, setRetime, type Slip } from '$lib/bench/speed/speed';

	let { bench, axis, side }: { bench: Bench; axis: Axis; side: ClipSide } = $props();

	const LEAST_U = 0.01;
	const FARTHEST = 250;
	let id = $derived(`slips-${side}`);
	let open = $derived(bench.view.selected === id);
	let retime = $derived(retimeOf(bench.transition.recipe, side));
	let slips = $derived(retime.slips.map((each) => placedTimes(each, SPAN_TIMES, axis)));
	let chosen = $state(0);
	let current = $derived(slips[Math.min(chosen, slips.length - 1)]);
	let height = $derived(open ? 6 * ROW_PX + 18 : CLOSED_PX);
	let isMarked = $derived(bench.subjects[side].strokes.length > 0);
	let most = $derived(Math.max(1, ...slips.map((each) => Math.abs(each.offset))));

	function set(label: string, next: Slip[]) {
		const sorted = [...next].sort((one, other) => one.from - other.from);
		const stated = sorted.map((each) => {
			const was = retime.slips.find((one, n) => each === slips[n] || same(one, each));
			return was ? statedTimes(was, each, SPAN_TIMES, axis) : each;
		});
		setRetime(bench.transition, side, { slips: stated }, label);
	}

	/** Whether a slip begins or ends where another one is stated to. */
	function same(stated: Slip, slip: Slip): boolean {
		const placed = placedTimes(stated, SPAN_TIMES, axis);
		return placed.from === slip.from || placed.to === slip.to;
	}

	function change(part: Partial<Slip>) {
		if (!current) return;
		const at = slips.indexOf(current);
		const low = slips[at - 1]?.to ?? -1;
		const high = slips[at + 1]?.from ?? 1;
		const made = { ...current, ...part };
		made.from = clamped(made.from, low, high - LEAST_U);
		made.to = clamped(made.to, made.from + LEAST_U, high);
		set('Change slip', slips.with(at, made));
	}

	/** Half of the largest free piece, or half of the last slip. */
	function add() {
		const ends = [-1, ...slips.flatMap((each) => [each.from, each.to]), 1];
		let [from, to] = [0, 0];
		for (let n = 0; n < ends.length; n += 2) {
			const [a = 0, b = 0] = [ends[n], ends[n + 1]];
			if (b - a > to - from) [from, to] = [a, b];
		}
		if (to - from < 4 * LEAST_U) return;
		const made = { from, to: Number(((from + to) / 2).toFixed(4)), offset: -6 };
		set('Add slip', [...slips, made]);
		chosen = [...slips, made].sort((one, other) => one.from - other.from).indexOf(made);
	}

	const u = (t: number) => Number(uOf(axis, t).toFixed(4));
</script>

<Lane label="Slips of the {side} clip" {open} {height} onselect={() => bench.view.select(id)}>
	{#snippet left()}
		<button class="name alone" aria-expanded={open} onclick={() => bench.view.select(id)}>
			<span>Slips</span>
			<span class="small text-quiet"
				>{side === 'outgoing' ? 'Outgoing' : 'Incoming'}
				{isMarked ? 'background' : 'picture, as no subject is marked'}</span
			>
		</button>
		{#if open}
			<div class="buttons">
				<Button low onclick={add}>Add slip</Button>
				<Button
					low
					kind="bare"
					disabled={!current}
					onclick={() =>
						set(
							'Remove slip',
							slips.filter((each) => each !== current)
						)}>Remove slip</Button
				>
			</div>
			<div class="buttons">
				<Button low kind="bare" onclick={() => set('Remove all slips', [])}>Remove all</Button>
			</div>
		{/if}
	{/snippet}
	{#snippet curve()}
		<div class="track" style:height="{height - 4}px">
			{#each slips as slip, n (n)}
				{@const left = axis.x(tOf(axis, slip.from))}
				{@const high = (Math.abs(slip.offset) / most) * (height / 2 - 10)}
				<button
					class="slip {side}"
					class:chosen={open && slip === current}
					aria-label="Slip by {slip.offset} frames from {fromCut(Math.round(tOf(axis, slip.from)))}"
					style:left="{left}px"
					style:width="{axis.x(tOf(axis, slip.to)) - left}px"
					style:top="{slip.offset > 0 ? height / 2 - high : height / 2}px"
					style:height="{Math.max(3, high)}px"
					onclick={(event) => {
						event.stopPropagation();
						chosen = n;
						bench.view.select(id);
					}}
				></button>
			{/each}
		</div>
	{/snippet}
	{#snippet right()}
		{#if open && current}
			<div class="parameter">
				<span class="label small">Offset</span>
				<NumberField
					label="Offset of the slip"
					value={current.offset}
					unit="frames"
					low={-FARTHEST}
					high={FARTHEST}
					step={1}
					onchange={(offset) => change({ offset: Math.round(offset) })}
				/>
			</div>
			<div class="parameter">
				<span class="label small">Start</span>
				<NumberField
					label="Start of the slip, frames from the cut"
					value={Number(tOf(axis, current.from).toFixed(2))}
					unit="frames"
					low={-axis.before}
					high={axis.after}
					step={1}
					onchange={(t) => change({ from: u(t) })}
				/>
			</div>
			<div class="parameter">
				<span class="label small">End</span>
				<NumberField
					label="End of the slip, frames from the cut"
					value={Number(tOf(axis, current.to).toFixed(2))}
					unit="frames"
					low={-axis.before}
					high={axis.after}
					step={1}
					onchange={(t) => change({ to: u(t) })}
				/>
			</div>
			<div class="parameter">
				<span class="label small">Join</span>
				<NumberField
					label="Frames over which each jump is morphed"
					value={retime.join}
					unit="frames"
					low={0}
					high={20}
					step={1}
					onchange={(join) =>
						setRetime(bench.transition, side, { join: Math.round(join) }, 'Join of slips')}
				/>
			</div>
		{:else}
			<div class="parameter">
				<span class="label small">{slips.length === 1 ? '1 slip' : `${slips.length} slips`}</span>
			</div>
		{/if}
	{/snippet}
</Lane>

<style>
	.buttons {
		display: flex;
		gap: 4px;
		padding: 2px 0 0 24px;
	}
	.track {
		position: relative;
	}
	.slip {
		position: absolute;
		min-width: 6px;
		border: 1px solid transparent;
		border-radius: 3px;
		opacity: 0.6;
	}
	.outgoing {
		background: var(--color-outgoing);
	}
	.incoming {
		background: var(--color-incoming);
	}
	.chosen {
		border-color: var(--color-seam);
		opacity: 0.9;
	}
</style>
