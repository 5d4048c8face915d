<script lang="ts">
	// Choose an easing from the gallery, set a steepness, or type a curve.
	import { isEasing, outline } from '$lib/recipe/easing';
	import { GALLERY, galleryName } from '$lib/recipe/easingGallery';
	import { easingText } from '$lib/recipe/labels';
	import type { Easing } from '$lib/recipe/recipe';
	import Button from '$lib/ui/Button.svelte';
	import NumberField from '$lib/ui/NumberField.svelte';
	import Popover from '$lib/ui/Popover.svelte';
	import TextField from '$lib/ui/TextField.svelte';

	type Props = {
		label: string;
		easing: Easing;
		onchange: (easing: Easing) => void;
		/** Put the easing on every curve of the transition. */
		onevery: (easing: Easing) => void;
	};
	let { label, easing, onchange, onevery }: Props = $props();

	let open = $state(false);
	let typed = $state('');
	let problem = $state('');
	let name = $derived(galleryName(easing) ?? easingText(easing));

	function path(curve: Easing): string {
		const [low, high] = [-0.3, 1.3];
		const at = ([x, y]: [number, number]) =>
			`${(2 + x * 20).toFixed(2)},${(17 - ((Math.min(Math.max(y, low), high) - low) / (high - low)) * 16).toFixed(2)}`;
		return `M${outline(curve).map(at).join(' L')}`;
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
			: `“${text}” is not an easing. Type ease-in, cubic-bezier(0.8, 0, 0.2, 1), steps(4, end) or linear(0, 0.8 30%, 1).`;
		if (!problem) choose(text);
	}
</script>

{#snippet drawing(curve: Easing, size: number)}
	<svg width={size} height={(size * 3) / 4} viewBox="0 0 24 18" aria-hidden="true">
		<path d={path(curve)} />
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
				>{@render drawing(easing, 24)}<span class="truncate">{name}</span></Button
			>
		{/snippet}
		<div class="choices">
			{#each GALLERY as each (each.name)}
				<Button
					class="justify-start text-left"
					pressed={galleryName(easing) === each.name}
					onclick={() => choose(each.easing)}
					>{@render drawing(each.easing, 36)}<span class="whitespace-normal">{each.name}</span
					></Button
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
			<div class="line">
				<Button
					tip="Every animated parameter and the mix get this easing"
					onclick={() => {
						open = false;
						onevery(easing);
					}}>Use on every curve</Button
				>
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
		width: 380px;
	}
	.line {
		display: flex;
		grid-column: 1 / 3;
		align-items: center;
		gap: 8px;
		white-space: normal;
	}
</style>
