<script lang="ts">
	// The files that an imported edit needs and that are not here: found again in a folder.
	import { counted } from '$lib/ui/numbers';
	import Sheet from '$lib/ui/Sheet.svelte';
	import UploadList from './UploadList.svelte';
	import { Uploads } from './uploads.svelte';

	type Props = {
		name: string;
		missing: string[];
		onfound: () => Promise<void>;
		onclose: () => void;
	};
	let { name, missing, onfound, onclose }: Props = $props();

	const uploads = new Uploads();
	let looked = $state('');
	let folder: HTMLInputElement;
	let lacking = $derived(missing.filter((each) => !isHere(each)));

	/** A name without folder and ending, in small letters: a list carries neither. */
	function plain(file: string): string {
		return file
			.replace(/^.*[\\/]/, '')
			.replace(/\.[^.]*$/, '')
			.toLowerCase();
	}

	function isHere(file: string): boolean {
		return uploads.list.some((each) => each.clip && plain(each.name) === plain(file));
	}

	async function look(files: File[]) {
		const wanted = new Set(lacking.map(plain));
		const found = files.filter((file) => {
			const fresh = wanted.delete(plain(file.name));
			return fresh && !file.name.startsWith('.');
		});
		looked = found.length
			? ''
			: `None of them is among the ${counted(files.length, 'file')} there: choose another folder.`;
		await uploads.add(found);
		if (!lacking.length) await onfound();
	}
</script>

<Sheet
	open
	title="{name} needs {counted(missing.length, 'file')} that {missing.length === 1
		? 'is'
		: 'are'} not here"
	size="md"
	outsideclose={false}
	{onclose}
>
	<ul class="flex flex-col gap-1" aria-label="Missing files">
		{#each missing as file (file)}
			<li class="flex justify-between gap-3">
				<span class="truncate" title={file}>{file}</span>
				<span class="small {isHere(file) ? 'text-quiet' : 'text-look'}">
					{#if isHere(file)}✓ found{:else}<span aria-hidden="true">○</span> missing{/if}
				</span>
			</li>
		{/each}
	</ul>
	<UploadList {uploads} />
	{#if looked}<p class="text-look">{looked}</p>{/if}
	<p class="text-quiet">
		Choose the folder that holds them: files are known by their names, and only those needed are
		taken.
	</p>
	<div class="flex justify-end gap-2">
		<button class="plain-button" onclick={onclose}>Not now</button>
		<button class="plain-button strong" disabled={uploads.busy} onclick={() => folder.click()}
			>Choose the folder…</button
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
			void look([...(folder.files ?? [])]);
			folder.value = '';
		}}
	/>
</Sheet>
