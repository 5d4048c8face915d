<script lang="ts">
	// Uploads, detections and renders that run, with progress and cancel, on every screen.
	import { useQueryClient } from '@tanstack/svelte-query';
	import { api, request, type Clip } from '$lib/api/client';
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

	async function cancel(asked: Promise<unknown>) {
		try {
			await asked;
			await client.invalidateQueries({ queryKey: ['activity'] });
		} catch (error) {
			toast.error(error);
		}
	}

	function beforeunload(event: BeforeUnloadEvent) {
		if (uploads.length) event.preventDefault();
	}
</script>

<svelte:window onbeforeunload={beforeunload} />
<Popover label="Activity" placement="bottom-end" bind:open>
	{#snippet button(attributes)}
		<Button {...attributes} tip="Uploads, detections and renders that run"
			>Activity{running ? `: ${running}` : ''}</Button
		>
	{/snippet}
	<div class="list">
		{#each uploads as { queue, file } (file.id)}
			<div class="entry">
				<span class="truncate">Upload: {file.name}</span>
				<Progress label="Upload of {file.name}" done={file.share} of={1} />
				<Button
					kind="bare"
					low
					aria-label="Cancel upload of {file.name}"
					onclick={() => queue.remove(file.id)}>Cancel</Button
				>
			</div>
		{/each}
		{#each detections as detection (detection.id)}
			<div class="entry">
				<span class="truncate">Cut detection: {detection.clip.name}</span>
				{#if isActive(detection)}
					<Progress
						label="Detection in {detection.clip.name}"
						done={detection.done_frames}
						of={detection.total_frames}
					/>
					<Button
						kind="bare"
						low
						aria-label="Cancel detection in {detection.clip.name}"
						onclick={() =>
							cancel(
								request(
									api.POST('/api/clips/{clip_id}/cuts/cancel', {
										params: { path: { clip_id: detection.id } }
									})
								)
							)}>Cancel</Button
					>
				{:else}
					<span class="small text-quiet">✓ Done: no edit made yet</span>
					<Button
						low
						onclick={() => {
							detected = detection.clip;
							open = false;
							opening = true;
						}}>Open</Button
					>
				{/if}
			</div>
		{/each}
		{#each subjects as subject (subject.id)}
			<div class="entry">
				<span class="truncate">Subject: {subject.clip.name}</span>
				<Progress
					label="Subject of {subject.clip.name}"
					done={subject.done_frames}
					of={subject.total_frames}
				/>
				<Button
					kind="bare"
					low
					aria-label="Cancel subject of {subject.clip.name}"
					onclick={() =>
						cancel(
							request(
								api.POST('/api/activity/subjects/{matte_id}/cancel', {
									params: { path: { matte_id: subject.id } }
								})
							)
						)}>Cancel</Button
				>
			</div>
		{/each}
		{#each beats as found (found.id)}
			<div class="entry">
				<span class="truncate">Beats: {found.clip.name}</span>
				<Progress
					label="Detection of beats in {found.clip.name}"
					done={found.done_s}
					of={found.total_s}
				/>
				<Button
					kind="bare"
					low
					aria-label="Cancel detection of beats in {found.clip.name}"
					onclick={() =>
						cancel(
							request(
								api.POST('/api/clips/{clip_id}/beats/cancel', {
									params: { path: { clip_id: found.id } }
								})
							)
						)}>Cancel</Button
				>
			</div>
		{/each}
		{#each renders as render (render.id)}
			<div class="entry">
				<span class="truncate">Render: {render.title}</span>
				{#if render.state === 'running'}
					<span
						><Progress
							label="Render of {render.title}"
							done={render.done_frames}
							of={render.total_frames}
						/><span class="small figures text-quiet">{progressText(render)}</span></span
					>
				{:else}
					<span class="small text-quiet">Queued</span>
				{/if}
				<Button
					kind="bare"
					low
					aria-label="Cancel render of {render.title}"
					disabled={render.cancel_asked}
					onclick={() =>
						cancel(
							request(
								api.POST('/api/renders/{render_id}/cancel', {
									params: { path: { render_id: render.id } }
								})
							)
						)}>Cancel</Button
				>
			</div>
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
