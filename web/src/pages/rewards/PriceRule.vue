<script setup lang="ts">
/** A reward's price and how it changes: over the coming hour, for an adjustable demand. */
import { ElSegmented, ElSlider } from 'element-plus'
import { computed, defineAsyncComponent, ref, shallowRef, watch } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { sayMinutes } from '@/logic/duration'
import type { Reward } from '@/logic/tickets'
import DurationField from '@/parts/DurationField.vue'
import NumberField from '@/parts/NumberField.vue'

const PriceCurve = defineAsyncComponent(() => import('./PriceCurve.vue'))
type Price = Reward['price']
const props = defineProps<{ reward: Reward }>()
const emit = defineEmits<{ change: [change: Partial<Reward>] }>()
const book = useBook()
const KINDS: { value: Price['kind']; label: string }[] = [
  { value: 'fixed', label: 'Stays' },
  { value: 'first', label: 'First one differs' },
  { value: 'rising', label: 'Rises and falls' },
]
/** Redemptions per hour, in growing steps: small numbers matter most. */
const DEMANDS = [0, 1, 2, 3, 4, 6, 8, 10, 12, 15, 20, 30, 40, 60, 90, 120, 240]
const demand = ref(5)
const perHour = computed(() => DEMANDS[demand.value] ?? 6)
const points = shallowRef<Schemas['PointOut'][]>([])
const perMinute = computed(() => book.book?.house.points_per_min ?? 10)

watch(
  [() => props.reward.cost, () => props.reward.price, perHour, perMinute],
  async () => {
    const body = { cost: props.reward.cost, price: props.reward.price, per_hour: perHour.value }
    points.value = await got(api.POST('/api/rewards/curve', { body })).catch(() => points.value)
  },
  { immediate: true },
)
const highest = computed(() => Math.max(...points.value.map((point) => point.cost), props.reward.cost))

function rule(change: Partial<Price>): void {
  const price = { ...props.reward.price, ...change }
  if (price.kind === 'first' && !price.then) price.then = Math.max(1, Math.round(props.reward.cost / 4))
  emit('change', { price })
}
</script>

<template>
  <section class="rule" aria-label="Price">
    <div class="pair">
      <label class="field">
        Price
        <NumberField
          :model-value="reward.cost"
          :least="1"
          :most="10_000_000"
          whole
          aria-label="Price"
          @update:model-value="emit('change', { cost: $event })"
        />
      </label>
      <p class="worth">
        <strong>{{ sayMinutes(reward.cost / perMinute) }}</strong> of watching
      </p>
    </div>
    <ElSegmented
      :model-value="reward.price.kind"
      :options="KINDS"
      aria-label="Price rule"
      @update:model-value="rule({ kind: $event as Price['kind'] })"
    />
    <div v-if="reward.price.kind === 'first'" class="pair">
      <label class="field">
        After the first one
        <NumberField
          :model-value="reward.price.then"
          :least="1"
          :most="10_000_000"
          whole
          aria-label="Price after the first"
          @update:model-value="rule({ then: $event })"
        />
      </label>
      <p class="worth">{{ sayMinutes((reward.price.then ?? reward.cost) / perMinute) }} of watching</p>
    </div>
    <div v-if="reward.price.kind === 'rising'" class="quarters">
      <label class="field">
        Multiply by
        <NumberField
          :model-value="reward.price.factor"
          :least="1"
          :most="10"
          :step="0.1"
          aria-label="Factor"
          @update:model-value="rule({ factor: $event })"
        />
      </label>
      <label class="field">
        Excess halves every
        <DurationField
          :model-value="reward.price.half_life_s"
          aria-label="Half-life"
          @update:model-value="rule({ half_life_s: $event ?? 600 })"
        />
      </label>
      <label class="field">
        Minimum
        <NumberField
          :model-value="reward.price.least > 1 ? reward.price.least : null"
          :least="1"
          :most="reward.price.most"
          whole
          optional
          hint="1"
          aria-label="Minimum"
          data-test="price-least"
          @update:model-value="rule({ least: $event })"
          @clear="rule({ least: 1 })"
        />
      </label>
      <label class="field">
        Maximum
        <NumberField
          :model-value="reward.price.most < 10_000_000 ? reward.price.most : null"
          :least="1"
          :most="10_000_000"
          whole
          optional
          hint="no limit"
          aria-label="Maximum"
          @update:model-value="rule({ most: $event })"
          @clear="rule({ most: 10_000_000 })"
        />
      </label>
      <label class="field">
        Round to
        <NumberField
          :model-value="reward.price.step"
          :least="1"
          :most="1_000_000"
          whole
          aria-label="Steps"
          @update:model-value="rule({ step: $event })"
        />
      </label>
    </div>
    <template v-if="reward.price.kind !== 'fixed'">
      <PriceCurve :points="points" :per-minute="perMinute" />
      <div class="demand row">
        <span id="demand" class="small">Redeemed {{ perHour }} × an hour</span>
        <ElSlider
          v-model="demand"
          :max="DEMANDS.length - 1"
          :format-tooltip="(at: number) => `${DEMANDS[at]} an hour`"
          :format-value-text="(at: number) => `${DEMANDS[at]} an hour`"
          aria-label="Redemptions per hour"
        />
        <span class="small soft"
          >up to {{ highest.toLocaleString() }}, {{ sayMinutes(highest / perMinute) }}</span
        >
      </div>
    </template>
  </section>
</template>

<style scoped>
.rule {
  display: grid;
  gap: 10px;
}

.pair,
.quarters {
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 10px;
  align-items: end;
}

.worth {
  margin: 0 0 8px;
}

.demand {
  display: grid;
  grid-template-columns: max-content minmax(80px, 1fr) max-content;
  gap: 16px;
}

@media (max-width: 600px) {
  .demand {
    grid-template-columns: minmax(0, 1fr);
    padding-inline: 10px;
  }
}
</style>
