<script lang="ts">
	// The subject layer: whose subject lies over the mix, and when.
	import type { Bench } from '$lib/bench/bench.svelte';
	import { tOf, uOf, type Axis } from '$lib/bench/strip/axis';
	import type { SubjectLayer } from '$lib/recipe/recipe';
	import { placedTimes, SPAN_TIMES, statedTimes } from '$lib/recipe/times';
	import Button from '$lib/ui/Button.svelte';
	import { draggable } from '$lib/ui/drag';
	import NumberField from '$lib/ui/NumberField.svelte';
	import { clamped } from '$lib/ui/numbers';
	import Select from '$lib/ui/Select.svelte';
	import Lane from './Lane.svelte';
	import { CLOSED_PX, ROW_PX } from './laneSizes';

	let { bench, axis }: { bench: Bench; axis: Axis } = $props();

	let { transition, view } = $derived(bench);
	let open = $derived(view.selected === 'subject');
	let stated = $derived(transition.recipe.subject_layer as SubjectLayer);
	let layer = $derived(placedTimes(stated, SPAN_TIMES, axis));
	let height = $derived(open ? 4 * ROW_PX + 18 : CLOSED_PX);
	let isMarked = $derived(bench.subjects[layer.of].strokes.length > 0);
	let x0 = $derived(axis.x(tOf(axis, layer.from)));
	let x1 = $derived(axis.x(tOf(axis, layer.to)));
	const LEAST_U = 0.02;
	const ENDS = [
		{ end: 'from', name: 'Start' },
		{ end: 'to', name: 'End' }
	] as const;

	function set(label: string, next: SubjectLayer | null) {
		transition.change(label, (recipe) => ({
			...recipe,
			subject_layer: next && statedTimes(stated, next, SPAN_TIMES, axis),
			// What acted on it acts on both clips again.
			filters: next
				? recipe.filters
				: recipe.filters.map((each) =>
						each.side === 'subject' ? { ...each, side: 'across' } : each
					)
		}));
	}

	function setEnd(end: 'from' | 'to', t: number) {
		const u = uOf(axis, t);
		const next =
			end === 'from' ? clamped(u, -1, layer.to - LEAST_U) : clamped(u, layer.from + LEAST_U, 1);
		if (next !== layer[end])
			set(`Subject ${end === 'from' ? 'start' : 'end'}`, { ...layer, [end]: next });
	}

	function dragOf(end: 'from' | 'to') {
		return draggable(() => {
			const began = tOf(axis, layer[end]);
			return {
				move: (_, right) => setEnd(end, Math.round((began + right / axis.cell) * 2) / 2)
			};
		});
	}
	const drags = { from: dragOf('from'), to: dragOf('to') };

	function onkeydown(event: KeyboardEvent, end: 'from' | 'to') {
		const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
		if (!by) return;
		event.preventDefault();
		event.stopPropagation();
		setEnd(end, Math.round(tOf(axis, layer[end]) + by));
	}
</script>

<Lane label="Subject" {open} {height} onselect={() => view.select('subject')}>
	{#snippet left()}
		<button class="name alone" aria-expanded={open} onclick={() => view.select('subject')}>
			<span>Subject</span>
			<span class="small text-quiet"
				>{layer.of === 'outgoing' ? 'Outgoing' : 'Incoming'} clip{isMarked
					? ''
					: ': not marked yet'}</span
			>
		</button>
	{/snippet}
	{#snippet curve()}
		<div class="track">
			<div class="bar {layer.of}" style:left="{x0}px" style:width="{Math.max(2, x1 - x0)}px"></div>
			{#each ENDS as { end, name } (end)}
				<button
					class="end"
					style:left="{end === 'from' ? x0 : x1}px"
					aria-label="{name} of the subject layer"
					{@attach drags[end]}
					onkeydown={(event) => onkeydown(event, end)}
				></button>
			{/each}
		</div>
	{/snippet}
	{#snippet right()}
		<div class="parameter">
			<span class="label small">Subject of</span>
			<Select
				label="Clip whose subject is shown"
				value={layer.of}
				items={[
					{ value: 'outgoing', name: 'Outgoing clip' },
					{ value: 'incoming', name: 'Incoming clip' }
				]}
				onchange={(of) => set(`Subject of the ${of} clip`, { ...layer, of })}
			/>
		</div>
		{#if open}
			{#each ENDS as { end, name } (end)}
				<div class="parameter">
					<span class="label small">{name}</span>
					<NumberField
						label="{name} of the subject layer, frames from the cut"
						value={Number(tOf(axis, layer[end]).toFixed(2))}
						unit="frames"
						low={-axis.before}
						high={axis.after}
						step={1}
						onchange={(t) => setEnd(end, t)}
					/>
				</div>
			{/each}
			<div class="parameter">
				<span></span>
				<Button low kind="bare" onclick={() => set('Remove subject layer', null)}>Remove</Button>
			</div>
		{/if}
	{/snippet}
</Lane>

<style>
	.track {
		position: relative;
		height: 100%;
		min-height: 34px;
	}
	.bar {
		position: absolute;
		top: calc(50% - 8px);
		height: 16px;
		border-radius: 4px;
		opacity: 0.55;
	}
	.outgoing {
		background: var(--color-outgoing);
	}
	.incoming {
		background: var(--color-incoming);
	}
	.end {
		position: absolute;
		top: calc(50% - 14px);
		width: 24px;
		height: 28px;
		margin-left: -12px;
		cursor: ew-resize;
	}
	.end::before {
		position: absolute;
		inset: 2px 10px;
		border-radius: 2px;
		background: var(--color-ink);
		content: '';
	}
</style>
