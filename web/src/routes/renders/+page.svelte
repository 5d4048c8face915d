<script lang="ts">
	// Renders: the queue, what is at work, and the files that are done.
	import { createInfiniteQuery, createQuery, useQueryClient } from '@tanstack/svelte-query';
	import {
		Table,
		TableBody,
		TableBodyCell,
		TableBodyRow,
		TableHead,
		TableHeadCell
	} from 'flowbite-svelte';
	import { isActive, progressText } from '$lib/shell/activity';
	import { api, request, type Render } from '$lib/api/client';
	import { finishedText, writtenText } from '$lib/render/renderChoice';
	import Button from '$lib/ui/Button.svelte';
	import Failure from '$lib/ui/Failure.svelte';
	import Progress from '$lib/ui/Progress.svelte';
	import { toast } from '$lib/ui/toast.svelte';
	import TopBar from '$lib/shell/TopBar.svelte';

	const PAGE = 40;
	const POLL_MS = 700;
	const IDLE_POLL_MS = 5000;
	const client = useQueryClient();
	const renders = createInfiniteQuery(() => ({
		queryKey: ['renders'],
		queryFn: ({ pageParam }) =>
			request(
				api.GET('/api/renders', { params: { query: { limit: PAGE, offset: pageParam * PAGE } } })
			),
		initialPageParam: 0,
		getNextPageParam: (last: Render[], all: Render[][]) =>
			last.length < PAGE ? undefined : all.length,
		refetchInterval: ({ state }) =>
			state.data?.pages.flat().some(isActive) ? POLL_MS : IDLE_POLL_MS
	}));
	let listed = $derived(renders.data?.pages.flat() ?? []);

	const choices = createQuery(() => ({
		queryKey: ['render-choices'],
		queryFn: () => request(api.GET('/api/renders/choices'))
	}));
	let formats = $derived(choices.data?.formats ?? []);

	async function act(render: Render, what: 'cancel' | 'retry' | 'delete') {
		const path = { params: { path: { render_id: render.id } } };
		try {
			if (what === 'cancel') await request(api.POST('/api/renders/{render_id}/cancel', path));
			else if (what === 'retry') await request(api.POST('/api/renders/{render_id}/retry', path));
			else await request(api.DELETE('/api/renders/{render_id}', path));
			await client.invalidateQueries({ queryKey: ['renders'] });
			await client.invalidateQueries({ queryKey: ['activity'] });
		} catch (error) {
			toast.error(error);
		}
	}

	function when(text: string): string {
		return new Date(text).toLocaleString([], { dateStyle: 'medium', timeStyle: 'short' });
	}
</script>

<svelte:head><title>Renders, Idle Shimmer</title></svelte:head>
<TopBar />
<main class="flex-1 overflow-auto p-6">
	{#if renders.error && !renders.data}
		<Failure error={renders.error} />
	{:else if !renders.data}
		<p class="text-quiet">Loading renders…</p>
	{:else if !listed.length}
		<div class="m-auto mt-24 flex max-w-md flex-col items-center gap-3 text-center">
			<h1 class="text-[15px]">No renders yet.</h1>
			<p class="text-quiet">Open a cut or an edit and press Render.</p>
			<Button href="/">All edits</Button>
		</div>
	{:else}
		<h1 class="sr-only">Renders</h1>
		<Table
			class="w-full text-[13px] text-ink"
			classes={{ div: 'mx-auto max-w-[1160px] overflow-x-auto rounded-md border border-line' }}
		>
			<TableHead class="bg-panel text-[11px] text-quiet normal-case">
				<TableHeadCell class="px-4 py-2 font-normal">Render</TableHeadCell>
				<TableHeadCell class="px-4 py-2 font-normal">Requested</TableHeadCell>
				<TableHeadCell class="px-4 py-2 font-normal">Frames</TableHeadCell>
				<TableHeadCell class="w-88 px-4 py-2 font-normal">State</TableHeadCell>
				<TableHeadCell class="px-4 py-2"><span class="sr-only">Actions</span></TableHeadCell>
			</TableHead>
			<TableBody>
				{#each listed as render (render.id)}
					<TableBodyRow class="border-line bg-page hover:bg-panel">
						<TableBodyCell class="max-w-96 px-4 py-2 font-normal whitespace-normal text-ink">
							{#if render.cut_id}
								<a class="hover:underline" href="/cuts/{render.cut_id}">{render.title}</a>
							{:else if render.edit_id}
								<a class="hover:underline" href="/edits/{render.edit_id}">{render.title}</a>
							{:else}
								{render.title}
							{/if}
							{#if render.format}
								<span class="small figures block text-quiet">{writtenText(render, formats)}</span>
							{/if}
						</TableBodyCell>
						<TableBodyCell class="px-4 py-2 font-normal text-quiet"
							>{when(render.created_at)}{#if render.author}<br />{render.author}{/if}</TableBodyCell
						>
						<TableBodyCell class="figures px-4 py-2 font-normal text-ink"
							>{render.total_frames}</TableBodyCell
						>
						<TableBodyCell class="px-4 py-2 font-normal whitespace-normal text-ink">
							{#if render.state === 'running'}
								<Progress
									label="Frames done of {render.title}"
									done={render.done_frames}
									of={render.total_frames}
								/>
								<span class="figures small">{progressText(render)}</span>
							{:else if render.state === 'waiting'}
								<span class="text-quiet">Queued</span>
							{:else if render.state === 'done'}
								<span class="text-quiet"
									><span aria-hidden="true">✓</span> Done<span class="figures"
										>{finishedText(render)}</span
									></span
								>
							{:else if render.state === 'failed'}
								<span class="text-failed"><span aria-hidden="true">▮</span> {render.message}</span>
							{:else}
								<span class="text-quiet">Cancelled at frame {render.done_frames}</span>
							{/if}
						</TableBodyCell>
						<TableBodyCell class="px-4 py-2">
							<span class="flex justify-end gap-2">
								{#if render.state === 'done' && !render.has_file}
									<span class="self-center text-failed">File missing</span>
									<Button onclick={() => act(render, 'retry')}>Retry</Button>
								{:else if render.state === 'done'}
									<Button kind="strong" href="/api/renders/{render.id}/file" download
										>Download</Button
									>
								{:else if isActive(render)}
									<Button disabled={render.cancel_asked} onclick={() => act(render, 'cancel')}
										>Cancel</Button
									>
								{:else}
									<Button onclick={() => act(render, 'retry')}>Retry</Button>
								{/if}
								{#if !isActive(render)}
									<Button
										aria-label="Delete render of {render.title}"
										onclick={() => act(render, 'delete')}>Delete</Button
									>
								{/if}
							</span>
						</TableBodyCell>
					</TableBodyRow>
				{/each}
			</TableBody>
		</Table>
		{#if renders.hasNextPage}
			<div class="mt-3 flex justify-center">
				<Button disabled={renders.isFetchingNextPage} onclick={() => renders.fetchNextPage()}
					>{renders.isFetchingNextPage ? 'Loading renders…' : 'Show more renders'}</Button
				>
			</div>
		{/if}
	{/if}
</main>
