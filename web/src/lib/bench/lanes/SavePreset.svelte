<script lang="ts">
	// Saves a filter under a name, as a preset.
	import { useQueryClient } from '@tanstack/svelte-query';
	import type { Bench } from '$lib/bench/bench.svelte';
	import { PRESETS, savePreset } from '$lib/bench/presets';
	import type { Filter } from '$lib/recipe/recipe';
	import Button from '$lib/ui/Button.svelte';
	import Popover from '$lib/ui/Popover.svelte';
	import TextField from '$lib/ui/TextField.svelte';

	let { bench, filter, title }: { bench: Bench; filter: Filter; title: string } = $props();

	const queries = useQueryClient();
	let open = $state(false);
	let typed = $state('');

	async function save() {
		const name = typed.trim() || title;
		if (!(await savePreset(bench, filter, name))) return;
		open = false;
		typed = '';
		await queries.invalidateQueries({ queryKey: [PRESETS] });
	}
</script>

<Popover label="Save {title} as a preset" bind:open>
	{#snippet button(attributes)}
		<Button {...attributes} low tip="Save the selected filter with its curves, to add it elsewhere"
			>Save {title.toLowerCase()} as a preset…</Button
		>
	{/snippet}
	<div class="flex items-center gap-2">
		<TextField
			label="Name of the preset"
			class="w-48"
			maxlength={200}
			autofocus
			placeholder={title}
			bind:value={typed}
			onenter={save}
		/>
		<Button kind="strong" onclick={save}>Save preset</Button>
	</div>
</Popover>
