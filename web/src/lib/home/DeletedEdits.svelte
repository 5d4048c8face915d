<script lang="ts">
	// Edits that were deleted in the last week, each with the way back.
	import { createQuery } from '@tanstack/svelte-query';
	import { api, request } from '$lib/api/client';
	import Button from '$lib/ui/Button.svelte';
	import Confirm from '$lib/ui/Confirm.svelte';

	type Props = { onrestore: (id: string) => void; ondelete: (id: string, name: string) => void };
	let { onrestore, ondelete }: Props = $props();

	let asked = $state.raw<{ id: string; name: string } | null>(null);

	const deleted = createQuery(() => ({
		// Changes together with the edits.
		queryKey: ['edits', 'deleted'],
		queryFn: () => request(api.GET('/api/edits/deleted'))
	}));

	function day(text: string): string {
		return new Date(text).toLocaleDateString([], { dateStyle: 'medium' });
	}
</script>

{#if deleted.data?.length}
	<section aria-label="Recently deleted">
		<h2 class="mt-4 mb-1 text-quiet">Recently deleted</h2>
		<ul>
			{#each deleted.data as edit (edit.id)}
				<li class="flex items-center gap-3 border-t border-line py-1">
					<span class="min-w-0 flex-1 truncate">{edit.name}</span>
					<span class="small text-quiet">kept until {day(edit.kept_until)}</span>
					<Button kind="bare" aria-label="Restore {edit.name}" onclick={() => onrestore(edit.id)}
						>Restore</Button
					>
					<Button
						kind="bare"
						aria-label="Delete permanently… {edit.name}"
						onclick={() => (asked = edit)}>Delete permanently…</Button
					>
				</li>
			{/each}
		</ul>
	</section>
{/if}
{#if asked}
	{@const { id, name } = asked}
	<Confirm
		title="Delete “{name}” permanently?"
		text="The edit and its history cannot be restored after this. Its clips stay."
		action="Delete permanently"
		onconfirm={() => ondelete(id, name)}
		onclose={() => (asked = null)}
	/>
{/if}
