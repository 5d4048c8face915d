<script lang="ts">
	// An edit on the home screen: its first frames, its facts, its unresolved checks.
	import type { EditSummary } from '$lib/api/client';
	import { pictureAddress } from '$lib/clips/frames';
	import { checkName, STATUS_MARK } from '$lib/recipe/checkStatus';
	import Button from '$lib/ui/Button.svelte';
	import { counted, rateNumber, rateText, timecode } from '$lib/ui/numbers';

	type Props = { edit: EditSummary; onduplicate: () => void; ondelete: () => void };
	let { edit, onduplicate, ondelete }: Props = $props();

	let rate = $derived(rateNumber(edit.rate));
	let more = $derived(edit.clip_count - edit.first.length);
	let worst = $derived(edit.failed_cuts ? ('failed' as const) : ('warning' as const));

	function when(text: string): string {
		return new Date(text).toLocaleString([], { dateStyle: 'medium', timeStyle: 'short' });
	}
</script>

<article class="card">
	<div class="strip" aria-hidden="true">
		{#each edit.first as { clip, in_frame }, place (place)}
			{#if clip.missing}
				<span class="missing small text-failed">File missing</span>
			{:else}
				<img src={pictureAddress(clip, in_frame, rate, 144, true)} alt="" />
			{/if}
		{/each}
		{#if more > 0}<span class="more text-quiet">+{more}</span>{/if}
	</div>
	<div class="facts">
		<span class="title">
			<a href="/edits/{edit.id}">{edit.name}</a>
			<span class="figures small text-quiet"
				>{edit.width}×{edit.height}, {rateText(edit.rate)} fps, {timecode(
					edit.frame_count,
					rate
				)}</span
			>
		</span>
		<span>{counted(edit.cut_count, 'cut')}</span>
		<span class="check">
			{#if edit.unreadable_cuts}
				<span class="text-failed"
					><span aria-hidden="true">▮</span>
					{counted(edit.unreadable_cuts, 'cut')} cannot be read</span
				>
			{:else if edit.worst}
				<span class={worst === 'failed' ? 'text-failed' : 'text-warning'}
					><span aria-hidden="true">{STATUS_MARK[worst]}</span>
					{counted(edit.unresolved_cuts, 'unresolved check')}: {checkName(
						edit.worst
					).toLowerCase()}</span
				>
			{:else if edit.unchecked_cuts}
				<span class="text-quiet">{counted(edit.unchecked_cuts, 'cut')} not checked yet</span>
			{:else if edit.cut_count}
				<span class="text-quiet"><span aria-hidden="true">✓</span> All checks are ok</span>
			{/if}
		</span>
		<span class="text-quiet">Changed {when(edit.changed_at)}</span>
		<span class="buttons">
			<Button kind="bare" aria-label="Duplicate {edit.name}" onclick={onduplicate}>Duplicate</Button
			>
			<Button kind="bare" aria-label="Delete {edit.name}" onclick={ondelete}>Delete</Button>
		</span>
	</div>
</article>

<style>
	.card {
		position: relative;
		overflow: hidden;
		border: 1px solid var(--color-line);
		border-radius: 6px;
		background: var(--color-panel);
	}
	.card:hover,
	.card:focus-within {
		border-color: var(--color-edge);
	}
	.strip {
		display: flex;
		height: 104px;
		gap: 1px;
		background: var(--color-page);
	}
	.strip img {
		flex: 1 1 0;
		min-width: 0;
		max-width: 260px;
		background: var(--color-surround);
		object-fit: cover;
	}
	.missing {
		display: flex;
		flex: 1 1 0;
		align-items: center;
		justify-content: center;
		background: var(--color-surround);
	}
	.more {
		display: flex;
		flex: none;
		align-items: center;
		padding: 0 14px;
	}
	.facts {
		display: grid;
		grid-template-columns: minmax(200px, 1.4fr) 70px minmax(160px, 1fr) auto auto;
		align-items: center;
		gap: 16px;
		padding: 8px 12px;
	}
	.title {
		display: flex;
		flex-direction: column;
		min-width: 0;
	}
	.title a {
		min-height: 24px;
		overflow: hidden;
		font-size: 15px;
		font-weight: 600;
		text-overflow: ellipsis;
		white-space: nowrap;
	}
	.title a:hover {
		text-decoration: underline;
	}
	/* The whole card opens the edit; its buttons lie above. */
	.title a::after {
		position: absolute;
		inset: 0;
		content: '';
	}
	.buttons {
		position: relative;
		display: flex;
	}
	@media (max-width: 900px) {
		.facts {
			grid-template-columns: 1fr auto;
		}
	}
</style>
