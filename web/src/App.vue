<script setup lang="ts">
import ToldList from './components/ToldList.vue'
</script>

<template>
  <RouterView />
  <ToldList />
</template>
