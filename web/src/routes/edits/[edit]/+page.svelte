<script lang="ts">
	import { page } from '$app/state';
	import { api, request, type Edit } from '$lib/api/client';
	import EditScreen from '$lib/edits/EditScreen.svelte';
	import Failure from '$lib/ui/Failure.svelte';
	import TopBar from '$lib/ui/TopBar.svelte';

	let editId = $derived(page.params.edit ?? '');
	let loading = $derived<Promise<Edit>>(
		request(api.GET('/api/edits/{edit_id}', { params: { path: { edit_id: editId } } }))
	);
</script>

{#await loading}
	<TopBar />
	<p class="p-6 text-quiet">Loading edit…</p>
{:then edit}
	{#key edit.id}
		<EditScreen given={edit} />
	{/key}
{:catch error}
	<TopBar />
	<Failure {error} />
{/await}
