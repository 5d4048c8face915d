<script lang="ts">
	// What the element before it does: shown on hover and focus, closed with Escape.
	import type { Snippet } from 'svelte';
	import { Tooltip } from 'flowbite-svelte';

	let { children }: { children: Snippet } = $props();
</script>

<Tooltip
	type="custom"
	arrow={false}
	transitionParams={{ duration: 0 }}
	triggerDelay={450}
	aria-hidden="true"
	class="pointer-events-auto max-w-80 rounded-md border border-edge bg-page px-2 py-1 text-[12px] font-normal whitespace-normal text-ink"
>
	{@render children()}
</Tooltip>
