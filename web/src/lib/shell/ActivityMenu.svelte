<script lang="ts">
	// Uploads, detections and renders that run, with progress and cancel, on every screen.
	import { useQueryClient } from '@tanstack/svelte-query';
	import { api, request, type Clip, type Render } from '$lib/api/client';
	import NewEdit from '$lib/clips/NewEdit.svelte';
	import { queues } from '$lib/clips/uploads.svelte';
	import Button from '$lib/ui/Button.svelte';
	import Popover from '$lib/ui/Popover.svelte';
	import Progress from '$lib/ui/Progress.svelte';
	import { toast } from '$lib/ui/toast.svelte';
	import { activityQuery, isActive, progressText } from './activity';

	const client = useQueryClient();
	const activity = activityQuery();
	let detected = $state.raw<Clip | null>(null);
	let opening = $state(false);
	let open = $state(false);
	let renders = $derived(activity.data?.renders ?? []);
	let detections = $derived(activity.data?.detections ?? []);
	let subjects = $derived(activity.data?.subjects ?? []);
	let beats = $derived(activity.data?.beats ?? []);
	let uploads = $derived(
		queues.all.flatMap((queue) =>
			queue.list
				.filter(({ state }) => ['waiting', 'sending', 'reading'].includes(state))
				.map((file) => ({ queue, file }))
		)
	);
	let running = $derived(
		renders.length +
			uploads.length +
			subjects.length +
			beats.length +
			detections.filter((each) => isActive(each)).length
	);
	let listed = $derived(
		renders.length + uploads.length + subjects.length + beats.length + detections.length
	);

	function onClip(clip_id: string) {
		return { params: { path: { clip_id } } };
	}

	async function cancel(asked: Parameters<typeof request>[0]) {
		try {
			await request(asked);
			await client.invalidateQueries({ queryKey: ['activity'] });
		} catch (error) {
			toast.error(error);
		}
	}

	function beforeunload(event: BeforeUnloadEvent) {
		if (uploads.length) event.preventDefault();
	}
</script>

{#snippet row(name: string, done: number, total: number, stop: () => void, render?: Render)}
	<div class="entry">
		<span class="truncate">{name}</span>
		{#if render?.state === 'waiting'}
			<span class="small text-quiet">Queued</span>
		{:else}
			<span>
				<Progress label={name} {done} of={total} />
				{#if render}<span class="small figures text-quiet">{progressText(render)}</span>{/if}
			</span>
		{/if}
		<Button
			kind="bare"
			low
			aria-label="Cancel {name}"
			disabled={render?.cancel_asked}
			onclick={stop}>Cancel</Button
		>
	</div>
{/snippet}

<svelte:window onbeforeunload={beforeunload} />
<Popover label="Activity" placement="bottom-end" bind:open>
	{#snippet button(attributes)}
		<Button {...attributes} tip="Uploads, detections and renders that run"
			>Activity{running ? `: ${running}` : ''}</Button
		>
	{/snippet}
	<div class="list">
		{#each uploads as { queue, file } (file.id)}
			{@render row(`Upload: ${file.name}`, file.share, 1, () => queue.remove(file.id))}
		{/each}
		{#each detections as { id, clip, state, done, total } (id)}
			{#if isActive({ state })}
				{@render row(`Cut detection: ${clip.name}`, done, total, () =>
					cancel(api.POST('/api/clips/{clip_id}/cuts/cancel', onClip(id)))
				)}
			{:else}
				<div class="entry">
					<span class="truncate">Cut detection: {clip.name}</span>
					<span class="small text-quiet">✓ Done: no edit made yet</span>
					<Button
						low
						onclick={() => {
							detected = clip;
							open = false;
							opening = true;
						}}>Open</Button
					>
				</div>
			{/if}
		{/each}
		{#each subjects as { id, clip, done, total } (id)}
			{@render row(`Subject: ${clip.name}`, done, total, () =>
				cancel(
					api.POST('/api/activity/subjects/{matte_id}/cancel', {
						params: { path: { matte_id: id } }
					})
				)
			)}
		{/each}
		{#each beats as { id, clip, done, total } (id)}
			{@render row(`Beats: ${clip.name}`, done, total, () =>
				cancel(api.POST('/api/clips/{clip_id}/beats/cancel', onClip(id)))
			)}
		{/each}
		{#each renders as render (render.id)}
			{@render row(
				`Render: ${render.title}`,
				render.done_frames,
				render.total_frames,
				() =>
					cancel(
						api.POST('/api/renders/{render_id}/cancel', {
							params: { path: { render_id: render.id } }
						})
					),
				render
			)}
		{/each}
		{#if !listed}
			<p class="text-quiet">
				Nothing is running. Uploads, detections, subjects and renders appear here.
			</p>
		{/if}
		<a href="/renders">All renders</a>
	</div>
</Popover>
{#if detected}<NewEdit bind:open={opening} given={detected} />{/if}

<style>
	.list {
		display: flex;
		flex-direction: column;
		width: 380px;
		gap: 8px;
		white-space: normal;
	}
	.entry {
		display: grid;
		grid-template-columns: 1fr 120px auto;
		align-items: center;
		gap: 8px;
	}
	a {
		text-decoration: underline;
	}
</style>
