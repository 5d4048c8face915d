<script lang="ts">
	// The head of a filter's lane: order, name, on and off; opened also side, copy, move and remove.
	import type { FilterKind } from '$lib/api/client';
	import type { Bench } from '$lib/bench/bench.svelte';
	import { copySelected } from '$lib/bench/copying';
	import { moveFilter, removeFilter } from '$lib/bench/filterList';
	import type { Actions } from '$lib/bench/actions';
	import { USUAL_LAYER, type Filter, type Side } from '$lib/recipe/recipe';
	import Button from '$lib/ui/Button.svelte';
	import { draggable } from '$lib/ui/drag';
	import Switch from '$lib/ui/Switch.svelte';
	import TextField from '$lib/ui/TextField.svelte';
	import Tip from '$lib/ui/Tip.svelte';
	import { CLOSED_PX } from './laneSizes';

	type Props = {
		bench: Bench;
		actions: Actions;
		filter: Filter;
		kind: FilterKind;
		place: number;
		open: boolean;
	};
	let { bench, actions, filter, kind, place, open }: Props = $props();

	const SIDES: { side: Side; name: string }[] = [
		{ side: 'outgoing', name: 'Outgoing clip only' },
		{ side: 'across', name: 'Both clips' },
		{ side: 'incoming', name: 'Incoming clip only' },
		{ side: 'subject', name: 'Subject only' }
	];
	let title = $derived(filter.name ?? kind.title);
	let sideName = $derived(SIDES.find(({ side }) => side === filter.side)?.name ?? '');
	let count = $derived(bench.transition.recipe.filters.length);

	function setSide({ side, name }: (typeof SIDES)[number]) {
		const label = `${title}: ${name.toLowerCase()}`;
		bench.transition.change(label, (recipe) => ({
			...recipe,
			// What acts on a subject needs one that is shown.
			subject_layer: recipe.subject_layer ?? (side === 'subject' ? { ...USUAL_LAYER } : undefined),
			filters: recipe.filters.map((each) => (each.id === filter.id ? { ...each, side } : each))
		}));
	}

	let renaming = $state(false);

	function rename(text: string) {
		renaming = false;
		const typed = text.trim();
		const name = typed && typed !== kind.title ? typed : undefined;
		if (name === (filter.name ?? undefined)) return;
		bench.transition.changeFilter(filter.id, `Rename ${title.toLowerCase()}`, (old) => ({
			...old,
			name
		}));
	}

	function setEnabled(enabled: boolean) {
		const label = `Turn ${enabled ? 'on' : 'off'} ${title.toLowerCase()}`;
		bench.transition.changeFilter(filter.id, label, (old) => ({ ...old, enabled }));
	}

	const reorder = draggable(() => {
		let passed = 0;
		return {
			move: (_, __, down) => {
				const places = Math.trunc(down / CLOSED_PX);
				if (places !== passed) moveFilter(bench, filter, places - passed);
				passed = places;
			}
		};
	});

	function onkeydown(event: KeyboardEvent) {
		const by = { ArrowUp: -1, ArrowDown: 1 }[event.key];
		if (!by) return;
		event.preventDefault();
		event.stopPropagation();
		moveFilter(bench, filter, by);
	}
</script>

<!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions -->
<div class="head" onclick={(event) => event.stopPropagation()}>
	<button
		class="grip"
		aria-label="Reorder {title}: drag, or arrow keys"
		{@attach reorder}
		{onkeydown}>⠿</button
	>
	{#if renaming}
		<TextField
			label="Name of the filter"
			class="min-w-0 flex-1"
			placeholder={kind.title}
			autofocus
			value={title}
			onchange={rename}
			onenter={() => (renaming = false)}
			onblur={() => (renaming = false)}
		/>
	{:else}
		<button class="name" aria-expanded={open} onclick={() => bench.view.select(filter.id)}>
			<span class="truncate" class:off={!filter.enabled}>{title}</span>
			<span class="small text-quiet">{place < 10 ? `${place} · ` : ''}{sideName}</span>
		</button>
	{/if}
	{#if open && !renaming}
		<Button
			kind="bare"
			low
			tip="Rename"
			aria-label="Rename {title}"
			onclick={() => (renaming = true)}>✎</Button
		>
	{/if}
	<Switch
		label="{title} on"
		on={filter.enabled}
		tip="{filter.enabled ? 'Turn off' : 'Turn on'} (E)"
		onchange={setEnabled}
	/>
</div>
{#if open}
	<div class="tools">
		<div class="sides" role="group" aria-label="Side">
			{#each SIDES as each (each.side)}
				<button
					class={each.side}
					aria-pressed={filter.side === each.side}
					aria-label={each.name}
					onclick={() => setSide(each)}><i></i><i></i></button
				>
				<Tip>{each.name}</Tip>
			{/each}
		</div>
		<span class="buttons">
			<Button
				kind="bare"
				low
				aria-label="Move {title} up"
				tip={actions.earlier.tip}
				disabled={place === 1}
				onclick={() => moveFilter(bench, filter, -1)}>↑</Button
			>
			<Button
				kind="bare"
				low
				aria-label="Move {title} down"
				tip={actions.later.tip}
				disabled={place === count}
				onclick={() => moveFilter(bench, filter, 1)}>↓</Button
			>
			<Button
				kind="bare"
				low
				aria-label="Copy {title}"
				tip={actions.copy.tip}
				onclick={() => copySelected(bench)}>Copy</Button
			>
			<Button
				kind="bare"
				low
				aria-label="Remove {title}"
				tip={actions.remove.tip}
				onclick={(event: MouseEvent) => {
					// The lane, which is gone by then, is not selected again.
					event.stopPropagation();
					removeFilter(bench, filter);
				}}>✕</Button
			>
		</span>
	</div>
{/if}

<style>
	.head {
		display: flex;
		align-items: center;
		gap: 4px;
	}
	.grip {
		width: 24px;
		height: 24px;
		border-radius: 4px;
		color: var(--color-quiet);
		cursor: grab;
	}
	.grip:hover {
		background: var(--color-line);
		color: var(--color-ink);
	}
	.off {
		color: var(--color-quiet);
		text-decoration: line-through;
	}
	.tools {
		display: flex;
		align-items: center;
		justify-content: space-between;
		height: var(--row);
		margin: 2px 0 0 2px;
	}
	.buttons,
	.sides {
		display: flex;
	}
	.buttons :global(button) {
		min-width: 24px;
		padding: 0 2px;
	}
	.sides button {
		display: flex;
		align-items: center;
		justify-content: center;
		width: 24px;
		height: 24px;
		gap: 2px;
		border: 1px solid transparent;
		border-radius: 6px;
	}
	.sides button[aria-pressed='true'] {
		border-color: var(--color-seam);
		background: var(--color-page);
	}
	.sides i {
		width: 8px;
		height: 8px;
		border: 1px solid var(--color-edge);
		border-radius: 2px;
	}
	.subject i:first-child {
		display: none;
	}
	.subject i {
		width: 10px;
		height: 14px;
		border-color: var(--color-quiet);
		border-radius: 5px 5px 3px 3px;
	}
	.subject[aria-pressed='true'] i {
		background: var(--color-quiet);
	}
	.outgoing i:first-child,
	.across i:first-child {
		border-color: var(--color-outgoing);
		background: var(--color-outgoing);
	}
	.incoming i:last-child,
	.across i:last-child {
		border-color: var(--color-incoming);
		background: var(--color-incoming);
	}
</style>
