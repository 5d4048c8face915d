<script lang="ts">
	import { page } from '$app/state';
	import { api, need, type Edit } from '$lib/api/client';
	import RunScreen from '$lib/edits/RunScreen.svelte';
	import Failure from '$lib/ui/Failure.svelte';
	import TopBar from '$lib/ui/TopBar.svelte';

	let editId = $derived(page.params.edit ?? '');
	let loading = $derived<Promise<Edit>>(
		need(api.GET('/api/edits/{edit_id}', { params: { path: { edit_id: editId } } }))
	);
</script>

{#await loading}
	<TopBar />
	<p class="p-6 text-quiet">Opening the edit…</p>
{:then edit}
	{#key edit.id}
		<RunScreen given={edit} />
	{/key}
{:catch error}
	<TopBar />
	<Failure {error} />
{/await}
