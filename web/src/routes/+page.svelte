<script lang="ts">
	// Home: the edits, those deleted recently, and what makes new ones.
	import { createInfiniteQuery, createQuery, useQueryClient } from '@tanstack/svelte-query';
	import { api, request, type EditSummary } from '$lib/api/client';
	import DeletedEdits from '$lib/home/DeletedEdits.svelte';
	import EditCard from '$lib/home/EditCard.svelte';
	import ImportEdit from '$lib/home/ImportEdit.svelte';
	import NewEdit from '$lib/clips/NewEdit.svelte';
	import Storage from '$lib/home/Storage.svelte';
	import Button from '$lib/ui/Button.svelte';
	import Failure from '$lib/ui/Failure.svelte';
	import { toast } from '$lib/ui/toast.svelte';
	import TopBar from '$lib/shell/TopBar.svelte';

	const client = useQueryClient();
	const pathOf = (id: string) => ({ params: { path: { edit_id: id } } });
	const PAGE = 40;
	const edits = createInfiniteQuery(() => ({
		queryKey: ['edits'],
		queryFn: ({ pageParam }) =>
			request(
				api.GET('/api/edits', { params: { query: { limit: PAGE, offset: pageParam * PAGE } } })
			),
		initialPageParam: 0,
		getNextPageParam: (last: EditSummary[], all: EditSummary[][]) =>
			last.length < PAGE ? undefined : all.length
	}));
	let listed = $derived(edits.data?.pages.flat() ?? []);
	let creating = $state(false);

	// Checks that have not run yet follow, one edit after another: reading the list runs none.
	const asked = new Set<string>();
	const stateOf = (edit: EditSummary) => [edit.id, edit.version, edit.unchecked_cuts].join();
	let unchecked = $derived(listed.find((edit) => edit.unchecked_cuts && !asked.has(stateOf(edit))));
	createQuery(() => ({
		queryKey: ['checks', unchecked && stateOf(unchecked)],
		queryFn: async () => {
			if (!unchecked) return null;
			asked.add(stateOf(unchecked));
			await request(api.GET('/api/edits/{edit_id}/checks', pathOf(unchecked.id)));
			await client.invalidateQueries({ queryKey: ['edits'] });
			return true;
		},
		enabled: unchecked !== undefined,
		retry: false,
		gcTime: 0
	}));

	async function changed(asked: () => Promise<unknown>, message = '') {
		try {
			await asked();
			await client.invalidateQueries({ queryKey: ['edits'] });
			if (message) toast.info(message);
		} catch (error) {
			toast.error(error);
		}
	}

	function remove(id: string, name: string) {
		return changed(
			() => request(api.DELETE('/api/edits/{edit_id}', pathOf(id))),
			`Deleted the edit “${name}”. It can be restored for a week, below the edits.`
		);
	}
</script>

<svelte:head><title>Edits, Idle Shimmer</title></svelte:head>
<TopBar>
	<span class="flex-1"></span>
	<ImportEdit />
	<Button kind="strong" onclick={() => (creating = true)}>New edit</Button>
</TopBar>
<main class="flex-1 overflow-auto p-6">
	<div class="mx-auto flex max-w-[1240px] flex-col gap-3">
		{#if edits.error && !edits.data}
			<Failure error={edits.error} />
		{:else if !edits.data}
			<p class="text-quiet">Loading edits…</p>
		{:else if !listed.length}
			<div class="m-auto mt-24 flex max-w-md flex-col items-center gap-3 text-center">
				<h1 class="text-[15px]">No edits yet.</h1>
				<p class="text-quiet">
					Create an edit from two or more clips: each place where two clips meet is a cut. Or start
					from one finished video and detect its cuts.
				</p>
				<Button kind="strong" onclick={() => (creating = true)}>New edit</Button>
			</div>
		{:else}
			<h1 class="sr-only">Edits</h1>
			<ul class="flex flex-col gap-3" aria-label="Edits">
				{#each listed as edit (edit.id)}
					<li>
						<EditCard
							{edit}
							onduplicate={() =>
								changed(() => request(api.POST('/api/edits/{edit_id}/duplicate', pathOf(edit.id))))}
							ondelete={() => remove(edit.id, edit.name)}
						/>
					</li>
				{/each}
			</ul>
			{#if edits.hasNextPage}
				<Button
					class="self-center"
					disabled={edits.isFetchingNextPage}
					onclick={() => edits.fetchNextPage()}
					>{edits.isFetchingNextPage ? 'Loading edits…' : 'Show more edits'}</Button
				>
			{/if}
		{/if}
		<DeletedEdits
			onrestore={(id) =>
				changed(() => request(api.POST('/api/edits/{edit_id}/restore', pathOf(id))))}
			ondelete={(id, name) =>
				changed(
					() => request(api.DELETE('/api/edits/{edit_id}/permanently', pathOf(id))),
					`Deleted “${name}” permanently.`
				)}
		/>
		<Storage />
	</div>
</main>

<NewEdit bind:open={creating} />
