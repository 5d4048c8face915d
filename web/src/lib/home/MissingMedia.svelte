<script lang="ts">
	// The media of an imported edit that is missing here, to be found in a folder.
	import Button from '$lib/ui/Button.svelte';
	import { counted } from '$lib/ui/numbers';
	import Dialog from '$lib/ui/Dialog.svelte';
	import UploadList from '$lib/clips/UploadList.svelte';
	import { Uploads } from '$lib/clips/uploads.svelte';

	type Props = {
		name: string;
		missing: string[];
		onfound: () => Promise<void>;
		onclose: () => void;
	};
	let { name, missing, onfound, onclose }: Props = $props();

	const uploads = new Uploads();
	let message = $state('');
	let folder: HTMLInputElement;
	let lacking = $derived(missing.filter((each) => !isHere(each)));

	/** A file name without folder and extension, in lower case. */
	function plain(file: string): string {
		return file
			.replace(/^.*[\\/]/, '')
			.replace(/\.[^.]*$/, '')
			.toLowerCase();
	}

	function isHere(file: string): boolean {
		return uploads.list.some((each) => each.clip && plain(each.name) === plain(file));
	}

	async function search(files: File[]) {
		const wanted = new Set(lacking.map(plain));
		const found = files.filter((file) => {
			const fresh = wanted.delete(plain(file.name));
			return fresh && !file.name.startsWith('.');
		});
		message = found.length
			? ''
			: `None of the missing files is among the ${counted(files.length, 'file')} in that folder. Choose another folder.`;
		await uploads.add(found);
		if (!lacking.length) await onfound();
	}
</script>

<Dialog
	open
	title="{name}: {counted(missing.length, 'file')} missing"
	size="md"
	outsideclose={false}
	{onclose}
>
	<ul class="flex flex-col gap-1" aria-label="Missing files">
		{#each missing as file (file)}
			<li class="flex justify-between gap-3">
				<span class="truncate">{file}</span>
				<span class="small {isHere(file) ? 'text-quiet' : 'text-warning'}">
					{#if isHere(file)}✓ Found{:else}<span aria-hidden="true">○</span> Missing{/if}
				</span>
			</li>
		{/each}
	</ul>
	<UploadList {uploads} />
	{#if message}<p class="text-warning">{message}</p>{/if}
	<p class="text-quiet">
		Choose the folder that contains them. Files are matched by name, and only those needed are
		imported.
	</p>
	<div class="flex justify-end gap-2">
		<Button onclick={onclose}>Cancel</Button>
		<Button kind="strong" disabled={uploads.busy} onclick={() => folder.click()}
			>Choose folder…</Button
		>
	</div>
	<input
		bind:this={folder}
		type="file"
		webkitdirectory
		multiple
		hidden
		aria-label="Folder of the missing files"
		onchange={() => {
			void search([...(folder.files ?? [])]);
			folder.value = '';
		}}
	/>
</Dialog>
