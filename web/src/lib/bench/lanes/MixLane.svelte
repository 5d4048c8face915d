<script lang="ts">
	// The mix: its kind, span and easing.
	import type { MixKind } from '$lib/api/client';
	import NumberField from '$lib/ui/NumberField.svelte';
	import type { Axis } from '$lib/bench/strip/axis';
	import type { Bench } from '$lib/bench/bench.svelte';
	import Select from '$lib/ui/Select.svelte';
	import EasingPicker from '$lib/bench/curves/EasingPicker.svelte';
	import Lane from './Lane.svelte';
	import { CLOSED_PX, ROW_PX } from './laneSizes';
	import LaneCurve from '$lib/bench/curves/LaneCurve.svelte';
	import ParameterField from '$lib/bench/fields/ParameterField.svelte';
	import type { Mix } from '$lib/recipe/recipe';

	let { bench, axis }: { bench: Bench; axis: Axis } = $props();

	const OPEN_PX = 92;
	const MATTE_PX = 84;

	let open = $derived(bench.view.selected === 'mix');
	let mix = $derived(bench.transition.recipe.mix);
	let entry = $derived(bench.catalogue.mixes.find((each) => each.kind === mix.kind));
	let rows = $derived(
		(entry?.parameters ?? []).reduce(
			(sum, each) => sum + (each.control === 'matte' ? MATTE_PX : ROW_PX),
			0
		)
	);
	let height = $derived(open ? OPEN_PX + rows : CLOSED_PX);
	let drawn = $derived(bench.preview.curves.find((each) => each.filter_id === 'mix'));
	let span = $derived<[number, number]>(mix.span ?? [-1, 1]);
	let frames = $derived({
		from: Math.round(span[0] * (span[0] < 0 ? bench.transition.before : bench.transition.after)),
		to: Math.round(span[1] * (span[1] < 0 ? bench.transition.before : bench.transition.after))
	});

	function set(label: string, next: Mix) {
		bench.transition.change(label, (recipe) => ({ ...recipe, mix: next }));
	}

	function setKind(kind: string) {
		const chosen = bench.catalogue.mixes.find((each) => each.kind === kind);
		set(
			`Mix: ${chosen?.title.toLowerCase()}`,
			chosen?.spanned
				? { kind, ...defaults(chosen), span: [-0.5, 0.5], easing: 'linear' }
				: { kind }
		);
	}

	/** The default of every parameter. */
	function defaults(chosen: MixKind): Record<string, unknown> {
		return Object.fromEntries(chosen.parameters.map((each) => [each.name, each.default]));
	}

	/** Set an end of the span, in frames from the cut. */
	function setSpan(end: 0 | 1, frame: number) {
		const u = Math.max(
			-1,
			Math.min(1, frame / (frame < 0 ? bench.transition.before : bench.transition.after))
		);
		const next: [number, number] = [span[0], span[1]];
		next[end] = Number(u.toFixed(6));
		if (next[0] <= next[1])
			set(`Mix ${end ? 'to' : 'from'} frame ${frame}`, { ...mix, span: next });
	}
</script>

<Lane label="Mix" {open} {height} onselect={() => bench.view.select('mix')}>
	{#snippet left()}
		<button class="name alone" aria-expanded={open} onclick={() => bench.view.select('mix')}>
			<span>Mix</span>
			<span class="small text-quiet">{entry?.title}</span>
		</button>
		{#if open && mix.easing !== undefined}
			<EasingPicker
				label="Easing"
				easing={mix.easing}
				onevery={(easing) => void bench.dials.ease(easing)}
				onchange={(easing) => set('Easing of the mix', { ...mix, easing })}
			/>
		{/if}
	{/snippet}
	{#snippet curve()}
		<LaneCurve {axis} curve={drawn} {height} {open} rest={0} name="mix" />
	{/snippet}
	{#snippet right()}
		<div class="parameter">
			<span class="label small">Kind</span>
			<Select
				label="Kind of mix"
				value={mix.kind}
				items={bench.catalogue.mixes.map(({ kind, title }) => ({ value: kind, name: title }))}
				onchange={setKind}
			/>
		</div>
		{#if open}
			{#each entry?.parameters ?? [] as parameter (parameter.name)}
				<div class="parameter">
					<span class="label small">{parameter.label}</span>
					<span class="control">
						<ParameterField
							{bench}
							{parameter}
							owner="Mix"
							value={mix[parameter.name]}
							onchange={(next) =>
								set(`Mix ${parameter.label.toLowerCase()}`, { ...mix, [parameter.name]: next })}
						/>
					</span>
				</div>
			{/each}
		{/if}
		{#if open && entry?.spanned}
			<div class="parameter">
				<span class="label small">From frame</span>
				<NumberField
					label="Mix from frame"
					value={frames.from}
					low={-bench.transition.before}
					high={frames.to}
					onchange={(frame) => setSpan(0, frame)}
				/>
			</div>
			<div class="parameter">
				<span class="label small">To frame</span>
				<NumberField
					label="Mix to frame"
					value={frames.to}
					low={frames.from}
					high={bench.transition.after}
					onchange={(frame) => setSpan(1, frame)}
				/>
			</div>
		{/if}
	{/snippet}
</Lane>
