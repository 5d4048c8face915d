<script lang="ts">
	// Choose a named easing, set a steepness, or type a curve.
	import { Popover } from 'flowbite-svelte';
	import type { Catalogue } from '$lib/api/client';
	import NumberField from '$lib/ui/NumberField.svelte';
	import { pointsOf } from './easing';
	import { easingText } from './labels';
	import type { Easing } from './recipe';

	type Props = {
		id: string;
		label: string;
		easing: Easing;
		catalogue: Catalogue;
		onchange: (easing: Easing) => void;
	};
	let { id, label, easing, catalogue, onchange }: Props = $props();

	let open = $state(false);
	let typed = $state('');
	let name = $derived(easingText(easing));
	let points = $derived(pointsOf(easing));

	function path([x1 = 0, y1 = 0, x2 = 1, y2 = 1]: number[]): string {
		const at = (x: number, y: number) => `${2 + x * 20},${16 - y * 12}`;
		return `M${at(0, 0)} C${at(x1, y1)} ${at(x2, y2)} ${at(1, 1)}`;
	}

	function choose(value: Easing) {
		onchange(value);
		open = false;
	}
</script>

{#snippet drawing(curve: number[] | null)}
	<svg width="24" height="18" viewBox="0 0 24 18" aria-hidden="true">
		{#if curve}<path d={path(curve)} />{:else}<path d="M2,16 H8 V10 H15 V4 H22" />{/if}
	</svg>
{/snippet}

<div class="row">
	<span class="small label">{label}</span>
	<button
		class="plain-button choose"
		id="easing-{id}"
		aria-label="{label}: {name}"
		aria-expanded={open}
	>
		{@render drawing(points)}<span class="name">{name}</span>
	</button>
</div>
<Popover
	bind:isOpen={open}
	triggeredBy="#easing-{id}"
	trigger="click"
	placement="top-start"
	arrow={false}
	class="z-40 border border-line bg-panel! text-ink!"
>
	<div class="choices" role="group" aria-label={label}>
		{#each catalogue.easings as each (each.name)}
			<button
				class="plain-button"
				class:pressed={each.name === easing}
				aria-pressed={each.name === easing}
				onclick={() => choose(each.name)}>{@render drawing(each.points)}{each.name}</button
			>
		{/each}
		<div class="line">
			<span>Steepness</span>
			<NumberField
				label="Steepness of {label}"
				value={typeof easing === 'string' ? 0.5 : easing.steepness}
				low={0}
				high={1}
				step={0.05}
				onchange={(steepness) => onchange({ steepness })}
			/>
			<button class="plain-button" onclick={() => choose({ steepness: 0.8 })}
				>Slow, fast, slow</button
			>
		</div>
		<form
			class="line"
			onsubmit={(event) => {
				event.preventDefault();
				if (typed.trim()) choose(typed.trim());
			}}
		>
			<input
				class="text-field"
				aria-label="Easing as text"
				placeholder="cubic-bezier(0.8,0,0.2,1.2)"
				bind:value={typed}
			/>
			<button class="plain-button">Set</button>
		</form>
	</div>
</Popover>

<style>
	.row {
		display: flex;
		align-items: center;
		gap: 6px;
		height: var(--row);
	}
	.label {
		flex: none;
		min-width: 54px;
		white-space: nowrap;
		color: var(--color-quiet);
	}
	.choose {
		flex: 1;
		justify-content: flex-start;
		min-width: 0;
		height: 24px;
		padding: 0 6px;
	}
	.name {
		overflow: hidden;
		text-overflow: ellipsis;
	}
	path {
		fill: none;
		stroke: var(--color-ink);
		stroke-width: 1.5;
	}
	.choices {
		display: grid;
		grid-template-columns: 1fr 1fr;
		gap: 6px;
		width: 290px;
		padding: 4px;
	}
	.choices > button {
		justify-content: flex-start;
	}
	.line {
		display: flex;
		grid-column: 1 / 3;
		align-items: center;
		gap: 8px;
	}
	.line input {
		flex: 1;
	}
</style>
