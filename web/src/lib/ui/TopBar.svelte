<script lang="ts">
	import type { Snippet } from 'svelte';
	import { page } from '$app/state';

	let { children }: { children?: Snippet } = $props();

	const places = [
		{ href: '/', name: 'Edits' },
		{ href: '/renders', name: 'Renders' }
	];
</script>

<header
	class="flex h-11 shrink-0 items-center gap-4 border-b border-line bg-panel px-4 whitespace-nowrap"
>
	<a href="/" class="flex items-center gap-2 font-semibold">
		<img src="/mark.svg" alt="" class="h-5 w-5" />Idle Shimmer
	</a>
	<nav class="flex gap-3" aria-label="Places">
		{#each places as { href, name } (href)}
			<a
				{href}
				class="border-b-2 py-0.5 {page.url.pathname === href
					? 'border-seam text-ink'
					: 'border-transparent text-quiet hover:text-ink'}"
				aria-current={page.url.pathname === href ? 'page' : undefined}>{name}</a
			>
		{/each}
	</nav>
	{@render children?.()}
</header>
