<script setup lang="ts">
import DemoCard from './DemoCard.vue'
import DeskArrivals from './DeskArrivals.vue'
import DeskFoot from './DeskFoot.vue'
import DeskHeld from './DeskHeld.vue'
import DeskLanes from './DeskLanes.vue'
import DeskStage from './DeskStage.vue'
</script>

<template>
  <div class="desk">
    <DemoCard />
    <DeskHeld class="held" />
    <div class="middle">
      <DeskStage />
      <DeskLanes class="lanes" />
    </div>
    <DeskArrivals class="arrivals" />
    <DeskFoot class="foot" />
  </div>
</template>

<style scoped>
.desk {
  display: grid;
  grid-template-columns: 310px minmax(0, 1fr) 340px;
  grid-template-rows: minmax(0, 1fr) auto;
  gap: 12px;
  height: 100%;
}

/* The demo's card is a row of its own. */
.desk:has(> .demo) {
  grid-template-rows: auto minmax(0, 1fr) auto;
}

.middle {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
  gap: 12px;
  min-height: 0;
}

.held,
.arrivals,
.lanes {
  min-height: 0;
  overflow: auto;
}

.foot {
  grid-column: 1 / -1;
}
</style>
