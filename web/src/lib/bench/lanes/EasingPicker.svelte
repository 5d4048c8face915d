<script lang="ts">
	// Choose a named easing, set a steepness, or type a curve.
	import type { Catalogue } from '$lib/api/client';
	import { isEasing, pointsOf } from '$lib/recipe/easing';
	import { easingText } from '$lib/recipe/labels';
	import type { Easing } from '$lib/recipe/recipe';
	import Button from '$lib/ui/Button.svelte';
	import NumberField from '$lib/ui/NumberField.svelte';
	import Popover from '$lib/ui/Popover.svelte';
	import TextField from '$lib/ui/TextField.svelte';

	type Props = {
		label: string;
		easing: Easing;
		catalogue: Catalogue;
		onchange: (easing: Easing) => void;
	};
	let { label, easing, catalogue, onchange }: Props = $props();

	let open = $state(false);
	let typed = $state('');
	let problem = $state('');
	let name = $derived(easingText(easing));

	function path([x1 = 0, y1 = 0, x2 = 1, y2 = 1]: number[]): string {
		const at = (x: number, y: number) => `${2 + x * 20},${16 - y * 12}`;
		return `M${at(0, 0)} C${at(x1, y1)} ${at(x2, y2)} ${at(1, 1)}`;
	}

	function choose(value: Easing) {
		onchange(value);
		open = false;
	}

	function setTyped() {
		const text = typed.trim();
		if (!text) return;
		problem = isEasing(text)
			? ''
			: `“${text}” is not an easing. Type ease-in, cubic-bezier(0.8, 0, 0.2, 1) or steps(4, end).`;
		if (!problem) choose(text);
	}
</script>

{#snippet drawing(curve: number[] | null)}
	<svg width="24" height="18" viewBox="0 0 24 18" aria-hidden="true">
		{#if curve}<path d={path(curve)} />{:else}<path d="M2,16 H8 V10 H15 V4 H22" />{/if}
	</svg>
{/snippet}

<div class="row">
	<span class="small label">{label}</span>
	<Popover {label} placement="top-start" bind:open>
		{#snippet button(attributes)}
			<Button
				{...attributes}
				low
				class="min-w-0 flex-1 justify-start px-1.5"
				aria-label="{name}: {label.toLowerCase()}"
				>{@render drawing(pointsOf(easing))}<span class="truncate">{name}</span></Button
			>
		{/snippet}
		<div class="choices">
			{#each catalogue.easings as each (each.name)}
				<Button
					class="justify-start"
					pressed={each.name === easing}
					onclick={() => choose(each.name)}>{@render drawing(each.points)}{each.name}</Button
				>
			{/each}
			<div class="line">
				<span>Steepness</span>
				<NumberField
					label="Steepness of {label.toLowerCase()}"
					value={typeof easing === 'string' ? 0.5 : easing.steepness}
					low={0}
					high={1}
					step={0.05}
					onchange={(steepness) => onchange({ steepness })}
				/>
				<Button onclick={() => choose({ steepness: 0.8 })}>Slow, fast, slow</Button>
			</div>
			<div class="line">
				<TextField
					label="Easing as text"
					class="w-48"
					placeholder="cubic-bezier(0.8, 0, 0.2, 1.2)"
					invalid={problem !== ''}
					bind:value={typed}
					oninput={() => (problem = '')}
					onenter={setTyped}
				/>
				<Button onclick={setTyped}>Set</Button>
			</div>
			{#if problem}<p class="line text-failed" role="alert">{problem}</p>{/if}
		</div>
	</Popover>
</div>

<style>
	.row {
		display: flex;
		align-items: center;
		gap: 6px;
		height: var(--row);
		min-width: 0;
		padding-left: 12px;
	}
	.label {
		flex: none;
		min-width: 54px;
		white-space: nowrap;
	}
	svg {
		flex: none;
	}
	path {
		fill: none;
		stroke: currentColor;
		stroke-width: 1.5;
	}
	.choices {
		display: grid;
		grid-template-columns: 1fr 1fr;
		gap: 6px;
		width: 290px;
	}
	.line {
		display: flex;
		grid-column: 1 / 3;
		align-items: center;
		gap: 8px;
		white-space: normal;
	}
</style>
