<script lang="ts">
	// An edit on the home screen: its first frames, its facts, its unresolved checks.
	import type { Edit } from '$lib/api/client';
	import { pictureAddress } from '$lib/frames';
	import { checkName, STATUS_MARK } from '$lib/recipe/checkStatus';
	import Button from '$lib/ui/Button.svelte';
	import { counted, rateNumber, rateText, timecode } from '$lib/ui/numbers';

	type Props = { edit: Edit; onduplicate: () => void; ondelete: () => void };
	let { edit, onduplicate, ondelete }: Props = $props();

	const STRIP_CLIPS = 7;
	let rate = $derived(rateNumber(edit.rate));
	let shown = $derived(edit.placed.slice(0, STRIP_CLIPS));
	let more = $derived(edit.placed.length - shown.length);
	let problems = $derived(edit.cuts.filter((cut) => cut.problem).length);
	let unresolved = $derived(
		edit.cuts.flatMap(({ problem, worst }) =>
			!problem && worst && worst.status !== 'ok' ? [worst] : []
		)
	);
	let worst = $derived(unresolved.find((each) => each.status === 'failed') ?? unresolved[0]);

	function when(text: string): string {
		return new Date(text).toLocaleString([], { dateStyle: 'medium', timeStyle: 'short' });
	}
</script>

<article class="card">
	<div class="strip" aria-hidden="true">
		{#each shown as placed (placed.id)}
			<img src={pictureAddress(placed.clip, placed.in_frame, rate, 144, true)} alt="" />
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
		<span>{counted(edit.cuts.length, 'cut')}</span>
		<span class="check">
			{#if problems}
				<span class="text-failed"
					><span aria-hidden="true">▮</span> {counted(problems, 'cut')} cannot be read</span
				>
			{:else if worst}
				<span class={worst.status === 'failed' ? 'text-failed' : 'text-warning'}
					><span aria-hidden="true">{STATUS_MARK[worst.status]}</span>
					{counted(unresolved.length, 'unresolved check')}: {checkName(
						worst.id
					).toLowerCase()}</span
				>
			{:else if edit.cuts.length}
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
