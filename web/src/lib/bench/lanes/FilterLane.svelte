<script lang="ts">
	// The lane of a filter: its head on the left, the curve in the middle, values on the right.
	import type { FilterKind, Parameter } from '$lib/api/client';
	import type { Actions } from '$lib/bench/actions';
	import type { Bench } from '$lib/bench/bench.svelte';
	import type { Axis } from '$lib/bench/strip/axis';
	import { changeLabel } from '$lib/recipe/labels';
	import {
		hasCurve,
		leadingParameter,
		mainName,
		movesOf,
		withMainValue,
		moversFor,
		pointsFor,
		type Envelope,
		type Filter,
		type Moves
	} from '$lib/recipe/recipe';
	import { pointAt } from '$lib/bench/points';
	import { shownAs, valueText } from '$lib/recipe/units';
	import { capitalised, fromCut, rounded } from '$lib/ui/numbers';
	import { speedAt } from '$lib/recipe/envelopes';
	import CurveTools, { rowsOf } from '$lib/bench/curves/CurveTools.svelte';
	import FilterHead from './FilterHead.svelte';
	import Lane from './Lane.svelte';
	import { PickedKeyframes } from '$lib/bench/curves/pickedKeyframes.svelte';
	import LaneCurve from '$lib/bench/curves/LaneCurve.svelte';
	import { CLOSED_PX, ROW_PX } from './laneSizes';
	import { filterCurve } from '$lib/bench/curves/curveOwner';
	import { onFrames, placedEnvelope, seenOf, statedEnvelope } from '$lib/recipe/times';
	import FrameValueField from '$lib/bench/fields/FrameValueField.svelte';
	import ParameterField from '$lib/bench/fields/ParameterField.svelte';
	import RegionField from '$lib/bench/fields/RegionField.svelte';
	import { shapeOf } from '$lib/recipe/region';

	type Props = {
		bench: Bench;
		axis: Axis;
		actions: Actions;
		filter: Filter;
		kind: FilterKind;
		place: number;
	};
	let { bench, axis, actions, filter, kind, place }: Props = $props();

	const LEAST_OPEN_PX = 150;
	/** Rows of the left column above the tools of the curve. */
	const FIXED_ROWS = 2;
	const SHAPE_ROWS = 6;
	const ANIMATED: Moves[] = ['swell', 'travel', 'keyframes'];

	let { transition, view } = $derived(bench);
	let open = $derived(view.selected === filter.id);
	let chosenName = $state('');
	let chosen = $derived(
		kind.parameters.find((each) => each.name === chosenName) ?? leadingParameter(filter, kind)
	);
	let envelope = $derived(chosen ? placedEnvelope(filter[chosen.name] as Envelope, axis) : 0);
	let drawn = $derived(
		bench.preview.curves.find(
			(each) => each.filter_id === filter.id && each.parameter === curveName(chosen)
		)
	);
	let movers = $derived(moversFor(bench.catalogue, transition.recipe, filter));
	let points = $derived(pointsFor(bench.catalogue, transition.recipe, filter));
	// A blur that follows a movement lies along it, whatever its angle.
	let follows = $derived(
		kind.parameters.some(
			(each) => each.can_follow && movesOf(filter[each.name] as Envelope) === 'follow'
		)
	);
	let leftRows = $derived(FIXED_ROWS + (chosen && hasCurve(chosen) ? rowsOf(envelope) : 0));
	/** The parameters that have another value on every frame. */
	let animated = $derived(
		kind.parameters.filter(
			(each) =>
				each.control !== 'point' && ANIMATED.includes(movesOf(filter[each.name] as Envelope))
		)
	);
	/** Values at the shown frame that stand in a row of their own, under the peak or amount. */
	let besides = $derived(
		animated.filter((each) => movesOf(filter[each.name] as Envelope) !== 'keyframes').length
	);
	/** The parameters, the region, and the numbers of its shape. */
	let rightRows = $derived(
		kind.parameters.length + besides + 1 + (shapeOf(filter) ? SHAPE_ROWS : 0)
	);
	let height = $derived(
		open ? Math.max(LEAST_OPEN_PX, Math.max(leftRows, rightRows) * ROW_PX + 18) : CLOSED_PX
	);
	let handle = $state('');
	const picked = new PickedKeyframes();

	/** The value of the curve at the shown frame, and how fast it changes there. */
	let readout = $derived.by(() => {
		const n = view.shown + axis.before;
		const value = drawn?.values[n];
		if (!chosen || value === undefined || movesOf(envelope) === 'hold') return '';
		const { scale, step } = shownAs(asNow(chosen));
		// The value as its field says it; how fast it changes need not be as exact.
		const speed = speedAt(drawn?.values ?? [], n);
		const near = rounded(speed * scale, (step * scale) / 10) / scale;
		const [now, change] = [value, near].map((each) => valueText(asNow(chosen), each));
		return `Frame ${fromCut(view.shown)}: ${now}, ${change} a frame`;
	});

	/** What the shown frame shows; the curves come from the server, a keyframe that is being set is ahead. */
	function valueNow(parameter: Parameter): number {
		const own = filter[parameter.name] as Envelope;
		const keyframe = bench.values.keyframe(own, view.shown);
		if (typeof keyframe === 'number') return keyframe;
		const found = bench.preview.curves.find(
			(each) => each.filter_id === filter.id && each.parameter === parameter.name
		);
		return found?.values[view.shown + axis.before] ?? parameter.rest ?? 0;
	}

	function curveName(parameter: Parameter | undefined): string {
		if (!parameter) return '';
		return parameter.control === 'point' ? `${parameter.name}.x` : parameter.name;
	}

	function set(parameter: Parameter, next: Envelope) {
		const was = transition.asSaved.filters.find((each) => each.id === filter.id)?.[parameter.name];
		transition.changeFilter(
			filter.id,
			changeLabel(kind.title, asNow(parameter), was as Envelope | undefined, next),
			(old) => ({
				...old,
				[parameter.name]: onFrames(
					statedEnvelope(old[parameter.name] as Envelope, next, axis),
					old[parameter.name] as Envelope,
					transition.recipe
				)
			})
		);
	}

	/** The parameter with the unit that the filter's current choices give it. */
	function asNow(parameter: Parameter): Parameter {
		const other = parameter.unit_when;
		return other && filter[other.parameter] === other.value
			? { ...parameter, unit: other.unit }
			: parameter;
	}

	/** Set a choice; parameters whose unit it changes start at their usual value. */
	function choose(parameter: Parameter, next: Envelope) {
		if (!parameter.choices) {
			set(parameter, next);
			return;
		}
		const counted = kind.parameters.filter((each) => each.unit_when?.parameter === parameter.name);
		const label = `${kind.title} ${parameter.label.toLowerCase()} ${valueText(parameter, next)}`;
		transition.changeFilter(filter.id, label, (old) => {
			const made = { ...old, [parameter.name]: next };
			for (const each of counted) {
				const usual = each.unit_when?.value === next ? each.unit_when.usual : each.usual;
				made[each.name] = withMainValue(old[each.name] as Envelope, usual ?? 0);
			}
			return made;
		});
	}
</script>

{#snippet field(parameter: Parameter)}
	{#if parameter.control === 'angle' && follows}
		<span class="small text-quiet">Along the movement</span>
	{:else}
		<ParameterField
			{bench}
			parameter={asNow(parameter)}
			owner={kind.title}
			value={filter[parameter.name]}
			point={parameter.control === 'point' ? pointAt(bench, filter, parameter.name) : undefined}
			onchange={(next) => choose(parameter, next)}
		/>
	{/if}
{/snippet}

{#snippet now(parameter: Parameter)}
	<span class="now small">At {fromCut(view.shown)}</span>
	<FrameValueField
		{bench}
		curve={filterCurve(filter.id, kind, asNow(parameter))}
		owner={kind.title}
		value={valueNow(parameter)}
	/>
{/snippet}

<Lane
	label="Filter {place}: {filter.name ?? kind.title}"
	filter={filter.id}
	{open}
	{height}
	onselect={() => view.select(filter.id)}
>
	{#snippet left()}
		<FilterHead {bench} {actions} {filter} {kind} {place} {open} />
		{#if open && chosen && hasCurve(chosen)}
			{@const shaped = chosen}
			<CurveTools
				{bench}
				{axis}
				{envelope}
				parameter={asNow(shaped)}
				owner={kind.title}
				movers={shaped.control === 'point' ? points : shaped.can_follow ? movers : []}
				curve={filterCurve(filter.id, kind, asNow(shaped))}
				{picked}
				bind:handle
				onchange={(next) => set(shaped, next)}
			/>
		{/if}
	{/snippet}
	{#snippet curve()}
		<LaneCurve
			{axis}
			curve={drawn}
			{height}
			{open}
			envelope={chosen?.control === 'point' ? undefined : envelope}
			dim={!filter.enabled}
			acts={filter.side === 'outgoing' || filter.side === 'incoming'
				? seenOf(filter.side, transition.recipe.mix, transition)
				: undefined}
			bind:chosen={handle}
			{picked}
			shown={view.shown}
			showSpeed={view.showSpeed && open}
			rest={chosen?.rest ?? 0}
			{readout}
			name="{kind.title} {chosen?.label.toLowerCase() ?? ''}"
			whole={chosen?.control === 'whole'}
			low={chosen?.low ?? undefined}
			high={chosen?.high ?? undefined}
			caption={chosen
				? `${capitalised(mainName(movesOf(envelope)))} ${valueText(asNow(chosen), envelope)}`
				: ''}
			onchange={(next) => chosen && set(chosen, next)}
		/>
	{/snippet}
	{#snippet right()}
		{#if open}
			{#each kind.parameters as parameter (parameter.name)}
				<div class="parameter" class:chosen={parameter === chosen}>
					{#if hasCurve(parameter)}
						<button
							class="label small"
							aria-pressed={parameter === chosen}
							aria-label="{parameter.label}: show the curve"
							onclick={() => {
								chosenName = parameter.name;
								picked.pick([]);
							}}>{parameter.label}</button
						>
					{:else}
						<span class="label small">{parameter.label}</span>
					{/if}
					{#if movesOf(filter[parameter.name] as Envelope) === 'keyframes' && animated.includes(parameter)}
						{@render now(parameter)}
					{:else}
						{@render field(parameter)}
					{/if}
				</div>
				{#if animated.includes(parameter) && movesOf(filter[parameter.name] as Envelope) !== 'keyframes'}
					<div class="parameter">
						<span class="label small"></span>
						{@render now(parameter)}
					</div>
				{/if}
			{/each}
			<RegionField {bench} {filter} title={kind.title} />
		{:else if chosen}
			<div class="parameter">
				{#if movesOf(envelope) === 'keyframes' && animated.includes(chosen)}
					<span class="label small">{chosen.label}</span>
					{@render now(chosen)}
				{:else}
					<span class="label small"
						>{chosen.label} {movesOf(envelope) === 'hold' ? '' : mainName(movesOf(envelope))}</span
					>
					{@render field(chosen)}
				{/if}
			</div>
		{/if}
	{/snippet}
</Lane>

<style>
	.label {
		flex: 1;
		min-width: 0;
		min-height: 24px;
		overflow: hidden;
		color: var(--color-quiet);
		line-height: 24px;
		text-align: left;
		text-overflow: ellipsis;
		white-space: nowrap;
	}
	.now {
		flex: none;
		color: var(--color-quiet);
		white-space: nowrap;
	}
	button.label:hover {
		color: var(--color-ink);
	}
	.chosen .label {
		color: var(--color-ink);
		font-weight: 600;
	}
</style>
