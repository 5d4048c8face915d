<script lang="ts">
	// One pass: its name and side on the left, its curve under the frames, its values on the right.
	import type { Parameter, PassKind } from '$lib/api/client';
	import type { Axis } from './axis';
	import type { Bench } from './bench.svelte';
	import { clipboard, heldName } from './clipboard.svelte';
	import { copySelected } from './copying';
	import EasingPicker from './EasingPicker.svelte';
	import { canMirror, mirrored, reshapedLike } from './envelopes';
	import KeyRows from './KeyRows.svelte';
	import { changeLabel } from './labels';
	import LaneCurve from './LaneCurve.svelte';
	import ParameterField from './ParameterField.svelte';
	import {
		leadingParameter,
		hasCurve,
		mainName,
		movesOf,
		withMainValue,
		withMoves,
		type Easing,
		kindOf,
		type Envelope,
		type Follow,
		type Keys,
		type Moves,
		type Pass,
		type Side,
		type Swell
	} from './recipe';
	import { valueText } from './units';

	type Props = {
		bench: Bench;
		axis: Axis;
		pass: Pass;
		kind: PassKind;
		place: number;
		onremove: () => void;
		onmove: (by: number) => void;
	};
	let { bench, axis, pass, kind, place, onremove, onmove }: Props = $props();

	const SIDES: { side: Side; name: string }[] = [
		{ side: 'outgoing', name: 'Outgoing clip only' },
		{ side: 'across', name: 'Across both clips' },
		{ side: 'incoming', name: 'Incoming clip only' }
	];
	const MOVES: Moves[] = ['hold', 'swell', 'travel', 'keys', 'follow'];
	const CLOSED_PX = 40;
	const ROW_PX = 27;
	const LEAST_OPEN_PX = 150;
	/** Of the left column: head, tools, how it moves, the curve's buttons. */
	const FIXED_ROWS = 4;
	const KEY_ROWS = 3;

	let open = $derived(bench.selected === pass.id);
	let chosenName = $state('');
	let chosen = $derived(
		kind.parameters.find((each) => each.name === chosenName) ?? leadingParameter(pass, kind)
	);
	let envelope = $derived(chosen ? (pass[chosen.name] as Envelope) : 0);
	let curve = $derived(
		bench.preview.curves.find(
			(each) => each.pass_id === pass.id && each.parameter === curveName(chosen)
		)
	);
	let easings = $derived(easingsOf(envelope));
	let movers = $derived(
		bench.recipe.passes.filter(
			(each) => each.id !== pass.id && kindOf(bench.catalogue, each)?.moving
		)
	);
	let moves = $derived(
		MOVES.filter((each) => each !== 'follow' || (chosen?.can_follow && movers.length))
	);
	// A streak that follows a movement lies along it, whatever its angle says.
	let follows = $derived(
		kind.parameters.some((each) => movesOf(pass[each.name] as Envelope) === 'follow')
	);
	let followed = $derived(
		typeof envelope === 'object' && 'pass' in envelope ? (envelope as Follow) : undefined
	);

	let keys = $derived(chosen && movesOf(envelope) === 'keys' ? (envelope as Keys) : undefined);
	let leftRows = $derived(FIXED_ROWS + easings.length + (followed ? 1 : 0) + (keys ? KEY_ROWS : 0));
	let height = $derived(
		open
			? Math.max(LEAST_OPEN_PX, Math.max(leftRows, kind.parameters.length) * ROW_PX + 16)
			: CLOSED_PX
	);
	let handle = $state('');
	let current = $derived(curve?.values[bench.shown + axis.before] ?? chosen?.rest ?? 0);
	let copiedCurve = $derived(clipboard.held?.kind === 'curve' ? clipboard.held : null);

	function curveName(parameter: Parameter | undefined): string {
		if (!parameter) return '';
		return parameter.control === 'point' ? `${parameter.name}.x` : parameter.name;
	}

	function easingsOf(of: Envelope): { name: string; easing: Easing }[] {
		if (typeof of !== 'object' || Array.isArray(of)) return [];
		if (of.kind === 'swell') {
			return [
				{ name: 'rise', easing: of.rise },
				{ name: 'fall', easing: of.fall }
			];
		}
		return of.kind === 'travel' ? [{ name: 'shape', easing: of.shape }] : [];
	}

	function set(parameter: Parameter, next: Envelope) {
		const was = bench.asSaved.passes.find((each) => each.id === pass.id)?.[parameter.name];
		bench.changePass(
			pass.id,
			changeLabel(kind.title, asNow(parameter), was as Envelope | undefined, next),
			(old) => ({ ...old, [parameter.name]: next })
		);
	}

	/** The parameter in the unit that it has beside the pass's present choices. */
	function asNow(parameter: Parameter): Parameter {
		const other = parameter.unit_when;
		return other && pass[other.parameter] === other.value
			? { ...parameter, unit: other.unit }
			: parameter;
	}

	/** Set a choice; what is counted in another unit beside it starts at its usual value. */
	function choose(parameter: Parameter, next: Envelope) {
		if (!parameter.choices) {
			set(parameter, next);
			return;
		}
		const counted = kind.parameters.filter((each) => each.unit_when?.parameter === parameter.name);
		const label = `${kind.title.toLowerCase()} ${parameter.label.toLowerCase()} ${String(next)}`;
		bench.changePass(pass.id, label, (old) => {
			const made = { ...old, [parameter.name]: next };
			for (const each of counted) {
				const usual = each.unit_when?.value === next ? each.unit_when.usual : each.usual;
				made[each.name] = withMainValue(old[each.name] as Envelope, usual ?? 0);
			}
			return made;
		});
	}

	function copyCurve() {
		if (!chosen) return;
		const title = `${kind.title}, ${chosen.label.toLowerCase()}`;
		clipboard.put({ kind: 'curve', title, envelope });
	}

	let article: HTMLElement;
	$effect(() => {
		void height;
		if (open) article.scrollIntoView({ block: 'nearest' });
	});

	function setSide(side: Side) {
		bench.changePass(pass.id, `${kind.title.toLowerCase()} ${side}`, (old) => ({ ...old, side }));
	}

	function toggle() {
		const enabled = !pass.enabled;
		bench.changePass(pass.id, `${kind.title.toLowerCase()} ${enabled ? 'on' : 'off'}`, (old) => ({
			...old,
			enabled
		}));
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
		<span class="small quiet">along the movement</span>
	{:else}
		<ParameterField
			{bench}
			parameter={asNow(parameter)}
			owner={kind.title}
			value={pass[parameter.name]}
			onchange={(next) => choose(parameter, next)}
		/>
	{/if}
{/snippet}

<!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_noninteractive_element_interactions -->
<article
	class="lane"
	class:open
	style:height="{height}px"
	bind:this={article}
	aria-label="{kind.title} pass"
	data-pass={pass.id}
	onclick={() => bench.select(pass.id)}
>
	<div class="left">
		<div class="head">
			<button
				class="bare-button grip"
				aria-label="Move {kind.title}: drag, or arrow keys"
				title="Drag to reorder"
				onpointerdown={grab}
				onpointermove={drag}
				onkeydown={onhandlekey}>⠿</button
			>
			<button class="name" aria-expanded={open} onclick={() => bench.select(pass.id)}>
				<span class:off={!pass.enabled}>{kind.title}</span>
				<span class="small quiet">{place < 10 ? `${place} · ` : ''}{pass.side}</span>
			</button>
			<button
				class="toggle"
				role="switch"
				aria-checked={pass.enabled}
				aria-label="{kind.title} on"
				title="On or off (E)"
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
							aria-pressed={pass.side === side}
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
						title="Copy this pass (Ctrl C)"
						onclick={() => copySelected(bench)}>copy</button
					>
					<button
						class="bare-button"
						aria-label="Remove {kind.title}"
						title="Remove this pass (Delete)"
						onclick={onremove}>remove</button
					>
				</span>
			</div>
			{#if chosen && hasCurve(chosen)}
				{@const moving = chosen}
				<div class="row">
					<span class="small">moves</span>
					<select
						class="choice moves"
						aria-label="How {chosen.label} moves"
						value={movesOf(envelope)}
						onchange={(event) =>
							set(
								moving,
								withMoves(envelope, event.currentTarget.value as Moves, moving, movers[0]?.id)
							)}
					>
						{#each moves as each (each)}<option value={each}>{each}</option>{/each}
					</select>
				</div>
			{/if}
			{#if followed && chosen}
				{@const following = chosen}
				<div class="row">
					<span class="small">pass</span>
					<select
						class="choice moves"
						aria-label="Pass that is followed"
						value={followed.pass}
						onchange={(event) =>
							followed && set(following, { ...followed, pass: event.currentTarget.value })}
					>
						{#each movers as each (each.id)}<option value={each.id}>{each.id}</option>{/each}
					</select>
				</div>
			{/if}
			{#if keys && chosen}
				{@const keyed = chosen}
				<KeyRows
					{bench}
					{axis}
					{keys}
					parameter={asNow(keyed)}
					{current}
					bind:chosen={handle}
					onchange={(next) => set(keyed, next)}
				/>
			{/if}
			{#each easings as { name, easing } (name)}
				<EasingPicker
					id="{pass.id}-{chosen?.name}-{name}"
					label={name}
					{easing}
					catalogue={bench.catalogue}
					onchange={(next) =>
						chosen && set(chosen, { ...(envelope as Swell), [name]: next } as Envelope)}
				/>
			{/each}
			{#if chosen && hasCurve(chosen)}
				{@const shaped = chosen}
				<div class="row curve">
					<span class="small">curve</span>
					{#if canMirror(envelope)}
						<button
							class="bare-button small"
							title="Mirror the outgoing side to the incoming side"
							onclick={() => set(shaped, mirrored(envelope))}>mirror →</button
						>
					{/if}
					<button
						class="bare-button small"
						disabled={movesOf(envelope) === 'hold'}
						title="Copy this curve for another lane"
						onclick={copyCurve}>copy</button
					>
					<button
						class="bare-button small"
						disabled={!copiedCurve}
						title={copiedCurve ? `Paste the ${heldName(copiedCurve)}` : 'No curve is copied'}
						onclick={() => copiedCurve && set(shaped, reshapedLike(copiedCurve.envelope, envelope))}
						>paste</button
					>
					<button
						class="bare-button small"
						class:pressed={bench.showSpeed}
						aria-pressed={bench.showSpeed}
						title="Show how fast the curve moves, dashed (V)"
						onclick={() => (bench.showSpeed = !bench.showSpeed)}>speed</button
					>
				</div>
			{/if}
		{/if}
	</div>
	<LaneCurve
		{axis}
		{curve}
		{height}
		{open}
		envelope={chosen?.control === 'point' ? undefined : envelope}
		dim={!pass.enabled}
		bind:chosen={handle}
		showSpeed={bench.showSpeed && open}
		rest={chosen?.rest ?? 0}
		name="{kind.title} {chosen?.label.toLowerCase() ?? ''}"
		whole={chosen?.control === 'whole'}
		low={chosen?.low ?? undefined}
		high={chosen?.high ?? undefined}
		caption={chosen ? `${mainName(movesOf(envelope))} ${valueText(asNow(chosen), envelope)}` : ''}
		onchange={(next) => chosen && set(chosen, next)}
	/>
	<div class="right">
		{#if open}
			{#each kind.parameters as parameter (parameter.name)}
				<div class="parameter" class:chosen={parameter === chosen}>
					<button
						class="label small"
						disabled={!hasCurve(parameter)}
						title={hasCurve(parameter) ? 'Show its curve' : ''}
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
	</div>
</article>

<style>
	.lane {
		position: relative;
		display: grid;
		grid-template-columns: var(--side) 1fr var(--side);
		border-bottom: 1px solid var(--color-line);
	}
	.lane.open {
		background: #232323;
	}
	.left {
		padding: 5px 10px 4px 4px;
		min-width: 0;
	}
	.head {
		display: flex;
		align-items: center;
		gap: 4px;
	}
	.grip {
		cursor: grab;
		touch-action: none;
	}
	.name {
		display: flex;
		flex: 1;
		flex-direction: column;
		min-width: 0;
		overflow: hidden;
		text-align: left;
		line-height: 1.15;
		white-space: nowrap;
	}
	.name span:first-child {
		font-weight: 600;
	}
	.name .off {
		color: var(--color-quiet);
		text-decoration: line-through;
	}
	.quiet {
		color: var(--color-quiet);
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
	.left :global(.row) {
		margin-left: 22px;
	}
	.right {
		display: flex;
		flex-direction: column;
		justify-content: center;
		padding: 4px 10px 4px 12px;
		min-width: 0;
	}
	.open .right {
		justify-content: flex-start;
		padding-top: 6px;
	}
	.parameter {
		display: flex;
		align-items: center;
		min-height: 27px;
		gap: 6px;
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
	.row {
		display: flex;
		align-items: center;
		gap: 6px;
		height: 27px;
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
