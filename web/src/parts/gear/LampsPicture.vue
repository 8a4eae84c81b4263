<script setup lang="ts">
/** Lamps as they shine: each a lantern whose glass has its colour. */
defineProps<{ lamps: { id: string; name: string; shown: string }[] }>()
</script>

<template>
  <div class="lamps" data-test="lamps">
    <figure v-for="lamp in lamps" :key="lamp.id">
      <svg viewBox="0 0 60 84" :aria-label="`${lamp.name}: ${lamp.shown}`" role="img">
        <path d="M22 8a8 8 0 0 1 16 0" fill="none" stroke="var(--soft)" stroke-width="3" />
        <path d="M16 14h28l4 8H12z" fill="var(--line)" />
        <rect x="12" y="22" width="36" height="46" rx="4" fill="var(--raised)" />
        <circle cx="30" cy="45" r="16" fill="#0c1412" />
        <circle cx="30" cy="45" r="14" :fill="lamp.shown" :data-lamp="lamp.id" :data-shown="lamp.shown" />
        <path d="M10 68h40l4 10H6z" fill="var(--line)" />
      </svg>
      <figcaption class="small" :title="lamp.name">{{ lamp.name }}</figcaption>
    </figure>
  </div>
</template>

<style scoped>
.lamps {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(56px, 1fr));
  gap: 8px;
  width: 100%;
  height: 100%;
  padding: 10px;
  align-items: start;
  align-content: center;
}

figure {
  margin: 0;
  display: grid;
  justify-items: center;
  gap: 4px;
  min-width: 0;
}

svg {
  width: 100%;
  max-height: 150px;
}

figcaption {
  max-width: 100%;
  text-align: center;
  line-height: 1.15;
}
</style>
