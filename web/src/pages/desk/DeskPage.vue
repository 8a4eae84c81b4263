<script setup lang="ts">
import DeskArrivals from './DeskArrivals.vue'
import DeskFoot from './DeskFoot.vue'
import DeskHeld from './DeskHeld.vue'
import DeskLanes from './DeskLanes.vue'
import DeskStage from './DeskStage.vue'
</script>

<template>
  <div class="desk">
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
  grid-template: minmax(0, 1fr) auto / 290px minmax(0, 1fr) 330px;
  gap: 12px;
  height: 100%;
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
