<script setup lang="ts">
defineProps<{ text: string; action?: string }>()
defineEmits<{ go: [] }>()
</script>

<template>
  <div class="empty">
    <p>{{ text }}</p>
    <button v-if="action" class="btn primary" data-test="empty-action" @click="$emit('go')">{{ action }}</button>
  </div>
</template>

<style scoped>
.empty {
  position: absolute; inset: 0; display: grid; place-content: center; justify-items: center; gap: 10px; padding: 20px;
  text-align: center; pointer-events: none;
}
p { margin: 0; color: var(--faded); max-width: 42ch; }
button { pointer-events: auto; }
</style>
