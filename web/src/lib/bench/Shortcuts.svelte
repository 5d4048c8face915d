<script lang="ts">
	// The list of keyboard shortcuts.
	import { Kbd } from 'flowbite-svelte';
	import { characterKeys } from '$lib/ui/characterKeys';
	import Dialog from '$lib/ui/Dialog.svelte';
	import Switch from '$lib/ui/Switch.svelte';
	import type { Action, Actions } from './actions';

	let { open = $bindable(false), actions }: { open: boolean; actions: Actions } = $props();

	const field = { shown: '↑ ↓', does: 'In a field: step the value; ×10 with Shift, ×0.1 with Alt' };
	let rows = $derived([...Object.values<Action>(actions), field]);
</script>

<Dialog bind:open title="Shortcuts" size="lg">
	<Switch
		label="Single-letter keys"
		on={characterKeys.value}
		onchange={(on) => (characterKeys.value = on)}>Single-letter keys</Switch
	>
	<ul class="rows">
		{#each rows as { shown, does } (shown)}
			<li><span class="keys"><Kbd>{shown}</Kbd></span>{does}</li>
		{/each}
	</ul>
</Dialog>

<style>
	.rows {
		margin-top: 8px;
		columns: 2 320px;
	}
	.rows li {
		display: flex;
		align-items: center;
		gap: 8px;
		min-height: 26px;
		break-inside: avoid;
	}
	.keys {
		flex: none;
		width: 108px;
	}
</style>
