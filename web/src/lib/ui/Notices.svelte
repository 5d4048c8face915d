<script lang="ts">
	import { Toast } from 'flowbite-svelte';
	import { notices } from './notices.svelte';
</script>

<div class="fixed right-4 bottom-10 z-50 flex w-96 flex-col gap-2" role="status" aria-live="polite">
	{#each notices.list as notice (notice.id)}
		<Toast
			class="w-full max-w-none! border border-line bg-panel! p-3! text-ink! shadow-lg"
			dismissable={false}
		>
			<div class="flex items-start gap-2">
				<span class={notice.kind === 'wrong' ? 'text-broken' : 'text-quiet'} aria-hidden="true">
					{notice.kind === 'wrong' ? '▮' : '✓'}
				</span>
				<p class="flex-1 text-[13px] break-words text-ink">{notice.text}</p>
				{#if notice.action}
					{@const action = notice.action}
					<button
						class="plain-button"
						onclick={() => {
							action.run();
							notices.close(notice.id);
						}}>{action.label}</button
					>
				{/if}
				<button
					class="bare-button"
					aria-label="Close this notice"
					onclick={() => notices.close(notice.id)}>✕</button
				>
			</div>
		</Toast>
	{/each}
</div>
