<template>
  <h2>Junctions <small>stage 6</small></h2>
  <p class="faded">Junctions are not part of this version yet. Roads that cross are drawn and computed each on its own.</p>
</template>
