<script lang="ts">
	import { Progressbar } from 'flowbite-svelte';
	import { onDestroy } from 'svelte';
	import { api, request, type Render } from '$lib/api/client';
	import Failure from '$lib/ui/Failure.svelte';
	import { toast } from '$lib/ui/toast.svelte';
	import { counted } from '$lib/ui/numbers';
	import TopBar from '$lib/ui/TopBar.svelte';

	const POLL_MS = 700;
	let renders = $state.raw<Render[] | null>(null);
	let failed = $state.raw<unknown>(null);
	let timer: ReturnType<typeof setTimeout> | undefined;
	let gone = false;

	async function load() {
		try {
			renders = await request(api.GET('/api/renders'));
			failed = null;
		} catch (error) {
			failed = error;
		}
		if (!gone) timer = setTimeout(load, POLL_MS);
	}
	void load();
	onDestroy(() => {
		gone = true;
		clearTimeout(timer);
	});

	async function act(render: Render, what: 'cancel' | 'retry') {
		const path = { params: { path: { render_id: render.id } } };
		try {
			await request(
				what === 'cancel'
					? api.POST('/api/renders/{render_id}/cancel', path)
					: api.POST('/api/renders/{render_id}/retry', path)
			);
			clearTimeout(timer);
			await load();
		} catch (error) {
			toast.error(error);
		}
	}

	/** The estimated time left; '' until ten frames are done. */
	function left(render: Render): string {
		if (!render.started_at || render.done_frames < 10) return '';
		const gone = (Date.now() - Date.parse(render.started_at)) / 1000;
		const seconds = (gone / render.done_frames) * (render.total_frames - render.done_frames);
		return seconds > 90
			? `about ${Math.round(seconds / 60)} min left`
			: `about ${Math.ceil(seconds)} s left`;
	}

	function when(text: string): string {
		return new Date(text).toLocaleString([], { dateStyle: 'medium', timeStyle: 'short' });
	}
</script>

<svelte:head><title>Renders, Idle Shimmer</title></svelte:head>
<TopBar />
<main class="flex-1 overflow-auto p-6">
	{#if failed && !renders}
		<Failure error={failed} />
	{:else if !renders}
		<p class="text-quiet">Loading renders…</p>
	{:else if !renders.length}
		<div class="m-auto mt-24 flex max-w-md flex-col items-center gap-3 text-center">
			<p class="text-[15px]">No renders yet.</p>
			<p class="text-quiet">Open a cut or an edit and press Render.</p>
			<a class="plain-button" href="/">All edits</a>
		</div>
	{:else}
		<ul class="mx-auto flex max-w-4xl flex-col gap-2" aria-label="Renders">
			{#each renders as render (render.id)}
				<li
					class="grid grid-cols-[1fr_280px_150px] items-center gap-4 rounded-md border border-line bg-panel px-4 py-3"
				>
					<span class="min-w-0">
						<b class="block truncate font-semibold" title={render.title}>{render.title}</b>
						<span class="small text-quiet">
							{counted(render.total_frames, 'frame')}, {when(render.created_at)}
						</span>
					</span>
					<span class="figures small">
						{#if render.state === 'running'}
							<Progressbar
								progress={(100 * render.done_frames) / render.total_frames}
								size="h-1.5"
								color="primary"
								aria-label="Frames done"
							/>
							{render.done_frames} of {render.total_frames} frames
							<span class="text-quiet">{render.cancel_asked ? 'Cancelling…' : left(render)}</span>
						{:else if render.state === 'waiting'}
							<span class="text-quiet">Queued</span>
						{:else if render.state === 'done'}
							<span class="text-quiet">✓ Done</span>
						{:else if render.state === 'failed'}
							<span class="text-failed"><span aria-hidden="true">▮</span> {render.message}</span>
						{:else}
							<span class="text-quiet">Cancelled at frame {render.done_frames}</span>
						{/if}
					</span>
					<span class="flex justify-end gap-2">
						{#if render.state === 'done'}
							<a class="plain-button strong" href="/api/renders/{render.id}/file" download
								>Download</a
							>
						{:else if render.state === 'waiting' || render.state === 'running'}
							<button
								class="plain-button"
								disabled={render.cancel_asked}
								onclick={() => act(render, 'cancel')}>Cancel</button
							>
						{:else}
							<button class="plain-button" onclick={() => act(render, 'retry')}>Retry</button>
						{/if}
						{#if render.cut_id}<a class="plain-button" href="/cuts/{render.cut_id}">Open cut</a
							>{/if}
					</span>
				</li>
			{/each}
		</ul>
	{/if}
</main>
