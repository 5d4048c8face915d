<script lang="ts">
	// A box to tick, with the look that the component library's plugin gives to every box. Rows of
	// long lists have one each: the library's own component takes several times as long to draw.
	import { tick } from 'svelte';

	type Props = {
		label: string;
		checked: boolean;
		onchange: (checked: boolean, shift: boolean) => void;
	};
	let { label, checked, onchange }: Props = $props();

	function clicked({
		currentTarget: box,
		shiftKey
	}: MouseEvent & { currentTarget: HTMLInputElement }) {
		onchange(box.checked, shiftKey);
		// Where nothing was changed by it, the box must not look otherwise.
		void tick().then(() => (box.checked = checked));
	}
</script>

<label class="target">
	<input
		type="checkbox"
		class="h-4 w-4 rounded-sm border-edge bg-page text-primary-600 focus:ring-0"
		aria-label={label}
		{checked}
		onclick={clicked}
	/>
</label>

<style>
	.target {
		display: inline-flex;
		align-items: center;
		justify-content: center;
		min-width: 24px;
		min-height: 24px;
	}
</style>
