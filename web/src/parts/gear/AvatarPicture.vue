<script setup lang="ts">
/** The avatar as it is now: model, outfit, pose, and the faces it makes, the last one on top. */
import { computed } from 'vue'

const props = defineProps<{ model: string; outfit: string; pose: string; expressions: string[] }>()
const cat = computed(() => props.model === 'Station cat')
const skin = computed(() => (cat.value ? '#8a8f86' : '#e3b98f'))
const face = computed(() => props.expressions.at(-1) ?? '')
const coat = computed(() => ({ "Sou'wester": '#e0b23c', 'Top hat': '#2b2f3a' })[props.outfit] ?? '#24508c')
const lean = computed(() => (props.pose === 'Bowing' ? 'rotate(18 100 180) translate(0 14)' : ''))
</script>

<template>
  <svg
    viewBox="0 0 200 200"
    role="img"
    data-test="avatar"
    :data-outfit="outfit"
    :data-face="face"
    :aria-label="`${model}, ${outfit}, ${pose}${face ? `, ${expressions.join(' and ')}` : ''}`"
  >
    <rect width="200" height="200" fill="var(--raised)" />
    <g :transform="lean">
      <path d="M46 200c0-46 22-66 54-66s54 20 54 66z" :fill="coat" />
      <path d="M92 138h16v62H92z" fill="#f4eedd" />
      <circle v-for="y in [152, 168, 184]" :key="y" cx="100" :cy="y" r="3" fill="#f0a23c" />
      <path
        v-if="pose === 'Waving'"
        d="M146 158c16-14 22-38 20-62"
        fill="none"
        :stroke="coat"
        stroke-width="20"
        stroke-linecap="round"
      />
      <circle v-if="pose === 'Waving'" cx="166" cy="84" r="12" :fill="skin" />
      <template v-if="cat">
        <path d="M60 70 62 34l26 18zm80 0-2-36-26 18z" :fill="skin" />
      </template>
      <ellipse cx="100" cy="92" :rx="cat ? 46 : 40" ry="44" :fill="skin" />
      <g v-if="cat" stroke="#f4eedd" stroke-width="2">
        <path d="M58 100 30 94m28 12-28 4m112-10 28-6m-28 12 28 4" />
      </g>
      <path v-else d="M72 112c12 10 44 10 56 0-4 22-52 22-56 0z" fill="#d8d2c4" />
      <!-- eyes and mouth -->
      <g v-if="face === 'Startled'">
        <circle cx="84" cy="86" r="11" fill="#fff" />
        <circle cx="116" cy="86" r="11" fill="#fff" />
        <circle cx="84" cy="86" r="5" fill="#17211f" />
        <circle cx="116" cy="86" r="5" fill="#17211f" />
        <ellipse cx="100" cy="116" rx="8" ry="11" fill="#5b2320" />
      </g>
      <g v-else-if="face === 'Cheer'" fill="none" stroke="#17211f" stroke-width="4" stroke-linecap="round">
        <path d="M76 88c4-8 12-8 16 0m16 0c4-8 12-8 16 0" />
        <path d="M82 106c8 16 28 16 36 0z" fill="#5b2320" />
      </g>
      <g v-else-if="face === 'Sleepy'" fill="none" stroke="#17211f" stroke-width="4" stroke-linecap="round">
        <path d="M76 88c4 5 12 5 16 0m16 0c4 5 12 5 16 0M92 114h16" />
      </g>
      <g v-else>
        <circle cx="84" cy="88" r="5" fill="#17211f" />
        <circle cx="116" cy="88" r="5" fill="#17211f" />
        <path
          d="M90 112c6 5 14 5 20 0"
          fill="none"
          stroke="#17211f"
          stroke-width="4"
          stroke-linecap="round"
        />
      </g>
      <!-- what is on the head -->
      <g v-if="outfit === 'Top hat'">
        <path d="M68 12h64v44H68z" fill="#2b2f3a" />
        <path d="M68 44h64v12H68z" fill="#b02a4d" />
        <ellipse cx="100" cy="58" rx="52" ry="9" fill="#2b2f3a" />
      </g>
      <g v-else-if="outfit === `Sou'wester`">
        <path d="M62 58c4-36 72-36 76 0z" fill="#e0b23c" />
        <path d="M48 60c20-12 84-12 104 0 6 6 6 16 2 22-10-18-98-18-108 0-4-6-4-16 2-22z" fill="#c8972a" />
      </g>
      <g v-else>
        <path d="M60 46c6-24 74-24 80 0l-4 14H64z" fill="#24508c" />
        <path d="M58 58c26 8 58 8 84 0l4 10c-28 8-64 8-92 0z" fill="#17211f" />
        <circle cx="100" cy="44" r="6" fill="#f0a23c" />
      </g>
    </g>
  </svg>
</template>
