<script setup lang="ts">
import { useTold } from '@/stores/told'

const told = useTold()
</script>

<template>
  <div class="told" role="status" aria-live="polite">
    <div v-for="t in told.list" :key="t.id" class="one" :class="t.kind" data-test="told">
      <div>
        <div>{{ t.text }}</div>
        <button v-if="t.go" class="go" data-test="told-go" @click="t.go.run(); told.dismiss(t.id)">{{ t.go.label }}</button>
        <div v-for="m in t.more" :key="m" class="more">{{ m }}</div>
      </div>
      <button class="close" aria-label="Close this message" @click="told.dismiss(t.id)">×</button>
    </div>
  </div>
</template>

<style scoped>
.told { position: fixed; right: 308px; bottom: 84px; z-index: 60; display: grid; gap: 6px; max-width: 460px; pointer-events: none; }
.one {
  background: var(--ink); color: #fff; border-radius: 4px; padding: 8px 8px 8px 12px; display: flex; gap: 12px;
  justify-content: space-between; box-shadow: 0 4px 14px rgb(29 42 51 / 25%); pointer-events: auto;
}
.one.wrong { background: #7e241e; }
.more { color: #d9dee1; font-size: 12px; }
.go { background: none; border: 0; padding: 4px 0 0; color: #fff; text-decoration: underline; cursor: pointer; font: inherit; }
.close { background: none; border: 0; color: #fff; font-size: 16px; line-height: 1; cursor: pointer; align-self: start; }
</style>
