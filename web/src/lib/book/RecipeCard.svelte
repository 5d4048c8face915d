<script lang="ts">
	// A recipe, played on the frames of this cut.
	import type { BookRecipe } from '$lib/api/client';
	import { counted } from '$lib/ui/numbers';
	import type { Still } from './stills.svelte';

	type Props = {
		cutId: string;
		version: string;
		entry: BookRecipe;
		/** The frame at the cut; undefined until it has loaded. */
		still: Still | undefined;
		frames: number;
		onapply: () => void;
		onrename?: (name: string) => void;
		onremove?: () => void;
	};
	let { cutId, version, entry, still, frames, onapply, onrename, onremove }: Props = $props();

	// The frame at the cut is shown first; the animation follows when every card has its still.
	const PLAY_AFTER_MS = 900;
	let wanted = $state(false);
	let plays = $state(false);
	let renaming = $state(false);
	let needs = $derived(
		[
			entry.needs_outgoing ? `${entry.needs_outgoing} outgoing` : '',
			entry.needs_incoming ? `${entry.needs_incoming} incoming` : ''
		]
			.filter(Boolean)
			.join(', ')
	);

	function take(event: Event) {
		renaming = false;
		onrename?.((event.currentTarget as HTMLInputElement).value);
	}
</script>

<article class="card">
	<button class="play" disabled={!!entry.problem} onclick={onapply} aria-label="Apply {entry.name}">
		<span class="film" style:--frames={frames}>
			{#if still && !plays}
				<img
					class="still"
					src={still.src}
					alt=""
					style:width="{still.among * 100}%"
					style:transform="translateX({(-still.place / still.among) * 100}%)"
					onload={() => setTimeout(() => (wanted = true), PLAY_AFTER_MS)}
				/>
			{/if}
			{#if wanted && !entry.problem}
				<img
					class="moving"
					loading="lazy"
					src="/api/cuts/{cutId}/cards/{entry.key}?v={encodeURIComponent(version)}"
					alt=""
					style:width="{frames * 100}%"
					onload={() => (plays = true)}
				/>
			{/if}
		</span>
	</button>
	<div class="text">
		{#if renaming}
			<!-- svelte-ignore a11y_autofocus -->
			<input
				class="text-field"
				aria-label="Recipe name"
				value={entry.name}
				autofocus
				onblur={take}
				onkeydown={(event) => event.key === 'Enter' && take(event)}
			/>
		{:else}
			<b>{entry.name}</b>
		{/if}
		{#if entry.problem}
			<span class="small text-failed problem" title={entry.problem}
				><span aria-hidden="true">▮</span> Cannot be read: {entry.problem}</span
			>
		{:else}
			<span class="quiet notes">{entry.notes}</span>
			<span class="small quiet figures">
				{entry.before} | {entry.after}{entry.filter_count
					? ` · ${counted(entry.filter_count, 'filter')}`
					: ''}{needs ? ` · spare frames: ${needs}` : ''}
			</span>
		{/if}
		{#if onremove}
			<span class="own">
				{#if !entry.problem}
					<button class="bare-button small" onclick={() => (renaming = true)}>Rename</button>
				{/if}
				<a
					class="bare-button small"
					href="/api/recipes/{entry.id}/file"
					download="{entry.name}.json">Export</a
				>
				<button class="bare-button small" onclick={onremove}>Delete</button>
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
		display: flex;
		flex-direction: column;
		overflow: hidden;
		border: 1px solid var(--color-line);
		border-radius: 6px;
		background: var(--color-panel);
	}
	.card:hover,
	.card:focus-within {
		border-color: var(--color-quiet);
	}
	.play {
		display: block;
		width: 100%;
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
	@media (prefers-reduced-motion: reduce) {
		.film .moving {
			animation: none;
			transform: translateX(calc(-50%));
		}
	}
	.text {
		display: flex;
		flex: 1;
		flex-direction: column;
		gap: 2px;
		padding: 8px 10px;
	}
	.notes {
		flex: 1;
		font-size: 12px;
	}
	.quiet {
		color: var(--color-quiet);
	}
	.own {
		display: flex;
		gap: 2px;
		margin: 2px 0 -4px -3px;
	}
</style>
