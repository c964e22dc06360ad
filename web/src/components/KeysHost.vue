<script setup lang="ts">
/** Listens to the keys of the workbench; a component of its own, since the workbench is provided to children only. */
import { useKeys } from '@/composables/useKeys'

useKeys()
</script>

<template><span hidden /></template>
