<script lang="ts">
	// A recipe, played on the frames of this cut. The whole card applies it.
	import type { BookRecipe } from '$lib/api/client';
	import Button from '$lib/ui/Button.svelte';
	import { counted } from '$lib/ui/numbers';
	import TextField from '$lib/ui/TextField.svelte';
	import type { Still } from './stills.svelte';

	type Props = {
		cutId: string;
		version: string;
		entry: BookRecipe;
		/** This recipe in every direction; itself alone where it has none. */
		directions: BookRecipe[];
		/** Why it suits the cut, or does not. */
		reasons: string[];
		/** What fitting it to this cut changes; empty where that is nothing. */
		changes: string;
		isFitted: boolean;
		onfit: (on: boolean) => void;
		ondirection: (key: string) => void;
		/** The frame at the cut; undefined until it has loaded. */
		still: Still | undefined;
		frames: number;
		/** Whether the cards play. */
		plays: boolean;
		onapply: () => void;
		/** The pointer rests on the card, or it has the focus; and neither any more. */
		onlook: (looked: boolean) => void;
		onrename?: (name: string) => void;
		onremove?: () => void;
	};
	let {
		cutId,
		version,
		entry,
		directions,
		reasons,
		changes,
		isFitted,
		onfit,
		ondirection,
		still,
		frames,
		plays,
		onapply,
		onlook,
		onrename,
		onremove
	}: Props = $props();

	const ARROWS: Record<string, string> = {
		right: '→',
		'up-right': '↗',
		up: '↑',
		'up-left': '↖',
		left: '←',
		'down-left': '↙',
		down: '↓',
		'down-right': '↘',
		horizontal: '↔',
		vertical: '↕',
		diagonal: '⤢',
		'falling-diagonal': '⤡'
	};
	// The frame at the cut is shown first; the animation follows when every card has its still.
	const PLAY_AFTER_MS = 900;
	let wanted = $state(false);
	let loaded = $state(false);
	let renaming = $state(false);
	let needs = $derived(
		[
			entry.needs_outgoing ? `${entry.needs_outgoing} outgoing` : '',
			entry.needs_incoming ? `${entry.needs_incoming} incoming` : ''
		]
			.filter(Boolean)
			.join(', ')
	);

	function rename(name: string) {
		renaming = false;
		onrename?.(name);
	}
</script>

<article
	class="card"
	onpointerenter={() => onlook(true)}
	onpointerleave={() => onlook(false)}
	onfocusin={() => onlook(true)}
	onfocusout={() => onlook(false)}
>
	<span class="film" style:--frames={frames}>
		{#if still && !(loaded && plays)}
			<img
				class="still"
				src={still.src}
				alt=""
				style:width="{still.among * 100}%"
				style:transform="translateX({(-still.place / still.among) * 100}%)"
				onload={() => setTimeout(() => (wanted = true), PLAY_AFTER_MS)}
			/>
		{/if}
		{#if wanted && plays && !entry.problem}
			<img
				class="moving"
				loading="lazy"
				src="/api/cuts/{cutId}/cards/{entry.key}?v={encodeURIComponent(version)}"
				alt=""
				style:width="{frames * 100}%"
				onload={() => (loaded = true)}
			/>
		{/if}
	</span>
	<div class="text">
		{#if renaming}
			<TextField
				label="Recipe name"
				class="relative z-10 w-full"
				autofocus
				value={entry.name}
				onchange={rename}
				onenter={() => (renaming = false)}
				onblur={() => (renaming = false)}
			/>
		{:else}
			<button
				class="apply"
				disabled={!!entry.problem}
				aria-label="Apply {entry.name}"
				onclick={onapply}>{entry.name}</button
			>
		{/if}
		{#if entry.problem}
			<span class="small text-failed problem"
				><span aria-hidden="true">▮</span> Cannot be read: {entry.problem}</span
			>
		{:else}
			{#each reasons as reason (reason)}
				<span class="reason">{reason}</span>
			{/each}
			{#if changes}
				<span class="fitting">
					<Button
						low
						pressed={isFitted}
						tip="{isFitted ? 'Back to' : 'Instead of'} the recipe as it was saved"
						aria-label="Fit {entry.name} to this cut"
						onclick={() => onfit(!isFitted)}>Fit to this cut</Button
					>
					<span class="small text-quiet">{changes}</span>
				</span>
			{/if}
			<span class="notes text-quiet">{entry.notes}</span>
			<span class="small figures text-quiet">
				{entry.before} | {entry.after}{entry.filter_count
					? ` · ${counted(entry.filter_count, 'filter')}`
					: ''}{needs ? ` · spare frames: ${needs}` : ''}{entry.subjects.length
					? ` · subject: ${entry.subjects.join(', ')}`
					: ''}
			</span>
		{/if}
		{#if directions.length > 1}
			<span class="directions" role="group" aria-label="Direction of {directions[0]?.name}">
				{#each directions as each (each.key)}
					<Button
						kind="bare"
						low
						class="direction"
						tip={each.name}
						aria-label={each.name}
						pressed={each.key === entry.key}
						onclick={() => ondirection(each.key)}
						><span aria-hidden="true">{ARROWS[each.direction ?? ''] ?? '·'}</span></Button
					>
				{/each}
			</span>
		{/if}
		{#if onremove}
			<span class="own">
				{#if !entry.problem}
					<Button kind="bare" low aria-label="Rename {entry.name}" onclick={() => (renaming = true)}
						>Rename</Button
					>
				{/if}
				<Button
					kind="bare"
					low
					aria-label="Export {entry.name}"
					href="/api/recipes/{entry.id}/file"
					download="{entry.name}.json">Export</Button
				>
				<Button kind="bare" low aria-label="Delete {entry.name}" onclick={onremove}>Delete</Button>
			</span>
		{/if}
	</div>
</article>

<style>
	.problem {
		display: -webkit-box;
		overflow: hidden;
		-webkit-box-orient: vertical;
		-webkit-line-clamp: 3;
		line-clamp: 3;
	}
	.card {
		position: relative;
		display: flex;
		flex-direction: column;
		overflow: hidden;
		border: 1px solid var(--color-line);
		border-radius: 6px;
		background: var(--color-panel);
	}
	.card:hover,
	.card:focus-within {
		border-color: var(--color-seam);
	}
	.film {
		position: relative;
		display: block;
		width: 100%;
		aspect-ratio: 16 / 9;
		overflow: hidden;
		background: var(--color-surround);
	}
	.film img {
		height: 100%;
		max-width: none;
	}
	.film .moving {
		position: absolute;
		top: 0;
		left: 0;
		/* Begins at the cut, where a recipe shows most. */
		animation: run 1.2s steps(var(--frames)) -0.6s infinite;
	}
	@keyframes run {
		to {
			transform: translateX(-100%);
		}
	}
	.text {
		display: flex;
		flex: 1;
		flex-direction: column;
		gap: 2px;
		padding: 8px 10px;
	}
	.apply {
		min-height: 20px;
		font-weight: 600;
		text-align: left;
	}
	/* The whole card is the button; those of a saved recipe lie above. */
	.apply::after {
		position: absolute;
		inset: 0;
		content: '';
	}
	.apply:focus-visible {
		outline: none;
	}
	.apply:focus-visible::after {
		border-radius: 6px;
		outline: 2px solid var(--color-seam);
		outline-offset: -2px;
	}
	.reason {
		padding-left: 8px;
		border-left: 2px solid var(--color-seam);
		font-size: 12px;
	}
	/* Above the card's own button. */
	.fitting {
		position: relative;
		display: flex;
		flex-wrap: wrap;
		align-items: center;
		gap: 2px 8px;
		margin: 2px 0;
	}
	.notes {
		flex: 1;
		font-size: 12px;
	}
	.directions {
		position: relative;
		display: flex;
		flex-wrap: wrap;
		gap: 2px;
		margin: 2px 0 -2px -4px;
	}
	.own {
		position: relative;
		display: flex;
		gap: 2px;
		margin: 2px 0 -4px -6px;
	}
</style>
