<script lang="ts">
	// Creates an edit from an OTIO file or an EDL: asks for the rate of an EDL and for missing media, and
	// says what was read differently from what the file says.
	import { goto } from '$app/navigation';
	import { problemText } from '$lib/api/client';
	import type { components } from '$lib/api/generated/schema';
	import Button from '$lib/ui/Button.svelte';
	import Dialog from '$lib/ui/Dialog.svelte';
	import { rateText } from '$lib/ui/numbers';
	import Select from '$lib/ui/Select.svelte';
	import { signedFetch } from '$lib/api/signedFetch';
	import { toast } from '$lib/ui/toast.svelte';
	import MissingMedia from './MissingMedia.svelte';

	type Imported = components['schemas']['ImportOut'];
	type Rate = components['schemas']['RateOut'];

	let picker: HTMLInputElement;
	let asking = $state.raw<{ file: File; rates: Rate[] } | null>(null);
	let rate = $state('');
	let lacking = $state.raw<{ file: File; missing: string[] } | null>(null);
	let imported = $state.raw<{ name: string; edit: string; notes: string[] } | null>(null);
	let chosen = $derived(asking?.rates.find((each) => each.rate === rate));

	async function send<T>(path: string, file: File, more: Record<string, string> = {}): Promise<T> {
		const query = new URLSearchParams({ name: file.name, ...more });
		const answer = await signedFetch(
			new Request(`${path}?${query}`, {
				method: 'POST',
				headers: { 'Content-Type': 'application/octet-stream' },
				body: file
			})
		);
		const body: unknown = await answer.json();
		if (!answer.ok) throw new Error(problemText(body));
		return body as T;
	}

	async function begin(file: File) {
		if (!file.name.toLowerCase().endsWith('.edl')) return read(file);
		try {
			const { rates } = await send<{ rates: Rate[] }>('/api/edits/import/rates', file);
			rate = rates[0]?.rate ?? '';
			asking = { file, rates };
		} catch (error) {
			toast.error(error);
		}
	}

	async function read(file: File) {
		asking = null;
		try {
			const more: Record<string, string> = rate ? { rate } : {};
			const { edit, missing, notes } = await send<Imported>('/api/edits/import', file, more);
			lacking = edit ? null : { file, missing };
			if (!edit) return;
			rate = '';
			if (notes.length) imported = { name: file.name, edit: edit.id, notes };
			else await goto(`/edits/${edit.id}`);
		} catch (error) {
			toast.error(error);
		}
	}
</script>

<Button onclick={() => picker.click()}>Import OTIO or EDL…</Button>
<input
	bind:this={picker}
	type="file"
	accept=".otio,.edl"
	hidden
	aria-label="Import edit"
	onchange={(event) => {
		const file = event.currentTarget.files?.[0];
		event.currentTarget.value = '';
		if (file) void begin(file);
	}}
/>
{#if asking}
	{@const { file, rates } = asking}
	<Dialog
		bind:open={() => true, (open: boolean) => !open && (asking = null)}
		title="Frame rate of {file.name}"
		size="xs"
	>
		<form
			class="flex flex-col gap-4"
			onsubmit={(event) => {
				event.preventDefault();
				void read(file);
			}}
		>
			<p class="text-quiet">An EDL does not say at which rate it counts.</p>
			<Select
				label="Frame rate"
				wide
				value={rate}
				items={rates.map((each) => ({ value: each.rate, name: `${rateText(each.rate)} fps` }))}
				onchange={(next) => (rate = next)}
			/>
			{#if chosen}
				<p class={chosen.fitting === chosen.events ? '' : 'text-warning'}>
					{chosen.fitting} of {chosen.events} events add up at this rate.
				</p>
			{/if}
			<div class="flex justify-end gap-2">
				<Button onclick={() => (asking = null)}>Cancel</Button>
				<Button kind="strong" type="submit">Import</Button>
			</div>
		</form>
	</Dialog>
{/if}
{#if lacking}
	{@const { file, missing } = lacking}
	<MissingMedia
		name={file.name}
		{missing}
		onfound={() => read(file)}
		onclose={() => (lacking = null)}
	/>
{/if}
{#if imported}
	{@const { name, edit, notes } = imported}
	<Dialog
		bind:open={() => true, (open: boolean) => !open && (imported = null)}
		title="Imported {name}"
		size="sm"
	>
		<p>Some of it is not part of an edit here:</p>
		<ul class="mt-2 flex list-disc flex-col gap-1 pl-5">
			{#each notes as note (note)}<li>{note}</li>{/each}
		</ul>
		<div class="mt-4 flex justify-end gap-2">
			<Button kind="strong" onclick={() => goto(`/edits/${edit}`)}>Open edit</Button>
		</div>
	</Dialog>
{/if}
