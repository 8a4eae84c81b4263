<script setup lang="ts">
import DemoCard from './DemoCard.vue'
import DeskArrivals from './DeskArrivals.vue'
import DeskFoot from './DeskFoot.vue'
import DeskHeld from './DeskHeld.vue'
import DeskLanes from './DeskLanes.vue'
import DeskStage from './DeskStage.vue'
import DeskWinners from './DeskWinners.vue'
</script>

<template>
  <div class="desk">
    <h1 class="unseen">Desk</h1>
    <DemoCard />
    <DeskHeld class="held" />
    <div class="middle">
      <DeskStage />
      <DeskLanes class="lanes" />
    </div>
    <div class="right">
      <DeskWinners />
      <DeskArrivals class="arrivals" />
    </div>
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

.right {
  display: flex;
  flex-direction: column;
  gap: 12px;
  min-height: 0;
}

.arrivals {
  flex: 1;
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

@media (max-width: 1120px) {
  .desk,
  .desk:has(> .demo) {
    grid-template-columns: repeat(2, minmax(0, 1fr));
    grid-template-rows: none;
    height: auto;
  }

  .middle {
    grid-column: 1 / -1;
    grid-row: 1;
  }

  .desk:has(> .demo) .middle {
    grid-row: 2;
  }
}

@media (max-width: 700px) {
  .desk,
  .desk:has(> .demo) {
    grid-template-columns: minmax(0, 1fr);
  }

  .middle,
  .desk:has(> .demo) .middle {
    grid-row: auto;
  }
}
</style>
