<script setup lang="ts">
/** Hatches of cut (／) and fill (＼) inside an SVG; ids carry the view's name, as ids are shared by the whole page. */
defineProps<{ view: string }>()
</script>

<template>
  <defs>
    <pattern :id="`cut-${view}`" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)"><rect width="7"
        height="7" fill="#d9a05b" fill-opacity=".2" /><path d="M0 0V7" stroke="#d9a05b" stroke-width="1.4" /></pattern>
    <pattern :id="`fill-${view}`" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(-45)"><rect width="7"
        height="7" fill="#7e9cb5" fill-opacity=".2" /><path d="M0 0V7" stroke="#7e9cb5" stroke-width="1.4" /></pattern>
  </defs>
</template>
