<script setup lang="ts">
const KEYS = [
  [', and .', 'section before, next section; with Shift ten of them'],
  ['Home, End', 'start and end of the road'],
  ['R', 'mark the start of a range, then its end; a third time clears it'],
  ['F', 'only the active view, and back'],
  ['T', 'fold the table, and back'],
  ['I', 'fold the inspector, and back'],
  ['Alt 1 to 8', 'stages'],
  ['Ctrl K', 'find or do'],
  ['Ctrl Z, Ctrl Shift Z', 'undo, redo'],
  ['Arrows on a PI or PVI', 'move it; Shift further, Ctrl finer'],
  ['Delete', 'delete the chosen PI or PVI'],
  ['Esc', 'leave what you are doing'],
  ['Double click', 'set the reading mark there'],
  ['Wheel, drag', 'zoom at the pointer, pan'],
  ['?', 'these keys'],
] as const
</script>

<template>
  <table class="grid"><tbody><tr v-for="[k, t] in KEYS" :key="k"><td><b>{{ k }}</b></td><td class="wrap">{{ t }}</td></tr></tbody></table>
</template>

<style scoped>
.wrap { white-space: normal; }
</style>
