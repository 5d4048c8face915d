<script lang="ts">
	import EditScreen from '$lib/edit/EditScreen.svelte';

	let { data } = $props();
</script>

{#key data.edit.id}
	<EditScreen given={data.edit} />
{/key}
