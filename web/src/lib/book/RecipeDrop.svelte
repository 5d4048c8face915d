<script lang="ts">
	// Recipe files dropped on a cut, wherever one is shown: elements with `data-cut`.
	import { openDialogs } from '$lib/ui/openDialogs.svelte';
	import { toast } from '$lib/ui/toast.svelte';
	import { isRecipeFile, readRecipe, type DroppedRecipe } from './recipeFiles';

	type Props = {
		/** The cut that a file goes to where it is dropped beside every cut. */
		otherwise?: string;
		onrecipe: (recipe: DroppedRecipe, cutId: string) => unknown;
	};
	let { otherwise = '', onrecipe }: Props = $props();

	const JSON_TYPE = 'application/json';
	let over: Element | null = null;

	function mark(target: Element | null) {
		if (target === over) return;
		over?.removeAttribute('data-dropping');
		target?.setAttribute('data-dropping', '');
		over = target;
	}

	function cutAt(event: DragEvent): Element | null {
		return (event.target as Element | null)?.closest?.('[data-cut]') ?? null;
	}

	function ondragover(event: DragEvent) {
		const items = [...(event.dataTransfer?.items ?? [])];
		mark(items.some(({ type }) => type === JSON_TYPE) ? cutAt(event) : null);
	}

	async function ondrop(event: DragEvent) {
		mark(null);
		const file = [...(event.dataTransfer?.files ?? [])].find(isRecipeFile);
		if (!file || openDialogs.top) return;
		event.preventDefault();
		const cutId = cutAt(event)?.getAttribute('data-cut') ?? otherwise;
		if (!cutId) {
			toast.error(new Error(`Drop ${file.name} on a cut: its recipe is applied there.`));
			return;
		}
		try {
			await onrecipe(await readRecipe(file), cutId);
		} catch (error) {
			toast.error(error);
		}
	}
</script>

<svelte:window {ondragover} {ondrop} />
