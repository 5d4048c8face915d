<script lang="ts">
	// The lane of a filter: name and side on the left, curve in the middle, values on the right.
	import type { Parameter, FilterKind } from '$lib/api/client';
	import type { Axis } from './axis';
	import type { Bench } from './bench.svelte';
	import { copySelected } from './copying';
	import CurveTools, { rowsOf } from './CurveTools.svelte';
	import { changeLabel } from './labels';
	import Lane from './Lane.svelte';
	import { CLOSED_PX, ROW_PX } from './laneSizes';
	import LaneCurve from './LaneCurve.svelte';
	import ParameterField from './ParameterField.svelte';
	import {
		leadingParameter,
		hasCurve,
		mainName,
		movesOf,
		withMainValue,
		kindOf,
		type Envelope,
		type Filter,
		type Side
	} from './recipe';
	import { capitalised } from '$lib/ui/numbers';
	import { valueText } from './units';

	type Props = {
		bench: Bench;
		axis: Axis;
		filter: Filter;
		kind: FilterKind;
		place: number;
		onremove: () => void;
		onmove: (by: number) => void;
	};
	let { bench, axis, filter, kind, place, onremove, onmove }: Props = $props();

	const SIDES: { side: Side; name: string }[] = [
		{ side: 'outgoing', name: 'Outgoing clip only' },
		{ side: 'across', name: 'Both clips' },
		{ side: 'incoming', name: 'Incoming clip only' }
	];
	const SIDE_NAMES = Object.fromEntries(SIDES.map(({ side, name }) => [side, name])) as Record<
		Side,
		string
	>;
	const LEAST_OPEN_PX = 150;
	/** Rows of the left column above the tools of the curve: head and tools. */
	const FIXED_ROWS = 2;

	let open = $derived(bench.selected === filter.id);
	let chosenName = $state('');
	let chosen = $derived(
		kind.parameters.find((each) => each.name === chosenName) ?? leadingParameter(filter, kind)
	);
	let envelope = $derived(chosen ? (filter[chosen.name] as Envelope) : 0);
	let drawn = $derived(
		bench.preview.curves.find(
			(each) => each.filter_id === filter.id && each.parameter === curveName(chosen)
		)
	);
	let movers = $derived(
		bench.recipe.filters.filter(
			(each) => each.id !== filter.id && kindOf(bench.catalogue, each)?.moving
		)
	);
	// A blur that follows a movement lies along it, whatever its angle.
	let follows = $derived(
		kind.parameters.some((each) => movesOf(filter[each.name] as Envelope) === 'follow')
	);
	let leftRows = $derived(FIXED_ROWS + (chosen && hasCurve(chosen) ? rowsOf(envelope) : 0));
	let height = $derived(
		open
			? Math.max(LEAST_OPEN_PX, Math.max(leftRows, kind.parameters.length) * ROW_PX + 16)
			: CLOSED_PX
	);
	let handle = $state('');
	let current = $derived(drawn?.values[bench.shown + axis.before] ?? chosen?.rest ?? 0);

	function curveName(parameter: Parameter | undefined): string {
		if (!parameter) return '';
		return parameter.control === 'point' ? `${parameter.name}.x` : parameter.name;
	}

	function set(parameter: Parameter, next: Envelope) {
		const was = bench.asSaved.filters.find((each) => each.id === filter.id)?.[parameter.name];
		bench.changeFilter(
			filter.id,
			changeLabel(kind.title, asNow(parameter), was as Envelope | undefined, next),
			(old) => ({ ...old, [parameter.name]: next })
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
		const label = `${kind.title} ${parameter.label.toLowerCase()} ${String(next)}`;
		bench.changeFilter(filter.id, label, (old) => {
			const made = { ...old, [parameter.name]: next };
			for (const each of counted) {
				const usual = each.unit_when?.value === next ? each.unit_when.usual : each.usual;
				made[each.name] = withMainValue(old[each.name] as Envelope, usual ?? 0);
			}
			return made;
		});
	}

	function setSide(side: Side) {
		bench.changeFilter(filter.id, `${kind.title}: ${SIDE_NAMES[side].toLowerCase()}`, (old) => ({
			...old,
			side
		}));
	}

	function toggle() {
		const enabled = !filter.enabled;
		bench.changeFilter(
			filter.id,
			`Turn ${enabled ? 'on' : 'off'} ${kind.title.toLowerCase()}`,
			(old) => ({
				...old,
				enabled
			})
		);
	}

	let dragFrom = 0;
	function grab(event: PointerEvent) {
		event.preventDefault();
		(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
		dragFrom = event.clientY;
	}
	function drag(event: PointerEvent) {
		if (!(event.currentTarget as HTMLElement).hasPointerCapture(event.pointerId)) return;
		const far = event.clientY - dragFrom;
		if (Math.abs(far) < CLOSED_PX) return;
		dragFrom = event.clientY;
		onmove(Math.sign(far));
	}
	function onhandlekey(event: KeyboardEvent) {
		const by = { ArrowUp: -1, ArrowDown: 1 }[event.key];
		if (!by) return;
		event.preventDefault();
		event.stopPropagation();
		onmove(by);
	}
</script>

{#snippet field(parameter: Parameter)}
	{#if parameter.control === 'angle' && follows}
		<span class="small quiet">Along the movement</span>
	{:else}
		<ParameterField
			{bench}
			parameter={asNow(parameter)}
			owner={kind.title}
			value={filter[parameter.name]}
			onchange={(next) => choose(parameter, next)}
		/>
	{/if}
{/snippet}

<Lane
	label="Filter {place}: {kind.title}"
	filter={filter.id}
	{open}
	{height}
	onselect={() => bench.select(filter.id)}
>
	{#snippet left()}
		<div class="head">
			<button
				class="bare-button grip"
				aria-label="Reorder {kind.title}: drag, or arrow keys"
				title="Reorder: drag, or arrow keys"
				onpointerdown={grab}
				onpointermove={drag}
				onkeydown={onhandlekey}>⠿</button
			>
			<button class="name" aria-expanded={open} onclick={() => bench.select(filter.id)}>
				<span class:off={!filter.enabled}>{kind.title}</span>
				<span class="small quiet">{place < 10 ? `${place} · ` : ''}{SIDE_NAMES[filter.side]}</span>
			</button>
			<button
				class="toggle"
				role="switch"
				aria-checked={filter.enabled}
				aria-label="{kind.title} on"
				title="{filter.enabled ? 'Turn off' : 'Turn on'} (E)"
				onclick={(event) => {
					event.stopPropagation();
					toggle();
				}}><span></span></button
			>
		</div>
		{#if open}
			<div class="tools">
				<div class="sides" role="group" aria-label="Side">
					{#each SIDES as { side, name } (side)}
						<button
							class={side}
							aria-pressed={filter.side === side}
							aria-label={name}
							title={name}
							onclick={() => setSide(side)}><i></i><i></i></button
						>
					{/each}
				</div>
				<span>
					<button
						class="bare-button"
						aria-label="Copy {kind.title}"
						title="Copy (Ctrl C)"
						onclick={() => copySelected(bench)}>Copy</button
					>
					<button
						class="bare-button"
						aria-label="Remove {kind.title}"
						title="Remove (Delete)"
						onclick={onremove}>Remove</button
					>
				</span>
			</div>
			{#if chosen && hasCurve(chosen)}
				{@const shaped = chosen}
				<CurveTools
					{bench}
					{axis}
					{envelope}
					parameter={asNow(shaped)}
					owner={kind.title}
					id="{filter.id}-{shaped.name}"
					movers={shaped.can_follow ? movers : []}
					{current}
					bind:handle
					onchange={(next) => set(shaped, next)}
				/>
			{/if}
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
			bind:chosen={handle}
			showSpeed={bench.showSpeed && open}
			rest={chosen?.rest ?? 0}
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
					<button
						class="label small"
						disabled={!hasCurve(parameter)}
						title={hasCurve(parameter) ? 'Show the curve' : ''}
						onclick={() => (chosenName = parameter.name)}>{parameter.label}</button
					>
					{@render field(parameter)}
				</div>
			{/each}
		{:else if chosen}
			<div class="parameter">
				<span class="label small"
					>{chosen.label} {movesOf(envelope) === 'hold' ? '' : mainName(movesOf(envelope))}</span
				>
				{@render field(chosen)}
			</div>
		{/if}
	{/snippet}
</Lane>

<style>
	.head {
		display: flex;
		align-items: center;
		gap: 4px;
	}
	.grip {
		cursor: grab;
		touch-action: none;
	}
	.name .off {
		color: var(--color-quiet);
		text-decoration: line-through;
	}
	.toggle {
		width: 26px;
		height: 14px;
		padding: 2px;
		border-radius: 8px;
		background: #4a4a4a;
	}
	.toggle span {
		display: block;
		width: 10px;
		height: 10px;
		border-radius: 50%;
		background: var(--color-quiet);
	}
	.toggle[aria-checked='true'] span {
		margin-left: 12px;
		background: var(--color-seam);
	}
	.tools {
		display: flex;
		align-items: center;
		justify-content: space-between;
		margin: 4px 0 4px 22px;
	}
	.sides {
		display: flex;
		gap: 4px;
	}
	.sides button {
		display: flex;
		gap: 2px;
		padding: 4px;
		border: 1px solid transparent;
		border-radius: 6px;
	}
	.sides button[aria-pressed='true'] {
		border-color: var(--color-quiet);
		background: var(--color-page);
	}
	.sides i {
		width: 9px;
		height: 9px;
		border-radius: 2px;
		background: #4a4a4a;
	}
	.outgoing i:first-child,
	.across i:first-child {
		background: var(--color-outgoing);
	}
	.incoming i:last-child,
	.across i:last-child {
		background: var(--color-incoming);
	}
	.label {
		flex: 1;
		min-width: 0;
		overflow: hidden;
		color: var(--color-quiet);
		text-align: left;
		text-overflow: ellipsis;
		white-space: nowrap;
	}
	button.label:hover:not(:disabled) {
		color: var(--color-ink);
	}
	.chosen .label {
		color: var(--color-ink);
		font-weight: 600;
	}
</style>
