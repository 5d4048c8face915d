<script lang="ts">
	// The value of a parameter on the shown frame: what is typed is what that frame shows.
	import type { Bench } from '$lib/bench/bench.svelte';
	import type { CurveOwner } from '$lib/bench/curves/curveOwner';
	import { shownAs } from '$lib/recipe/units';
	import { fromCut } from '$lib/ui/numbers';
	import NumberField from '$lib/ui/NumberField.svelte';

	type Props = {
		bench: Bench;
		curve: CurveOwner;
		/** Whose parameter it is, for the label. */
		owner: string;
		value: number;
	};
	let { bench, curve, owner, value }: Props = $props();

	let parameter = $derived(curve.parameter);
	let shown = $derived(shownAs(parameter));
	let frame = $derived(bench.view.shown);
</script>

<NumberField
	label="{parameter.label} of {owner} at {fromCut(frame)}"
	{value}
	unit={shown.unit}
	scale={shown.scale}
	low={parameter.low ?? undefined}
	high={parameter.high ?? undefined}
	step={shown.step}
	rest={parameter.rest ?? null}
	onchange={(next) => void bench.values.set(curve, frame, next)}
/>
