<script setup lang="ts">
/** Several names: picked from those that are known, or typed. */
import { ElOption, ElSelect } from 'element-plus'
import { computed, onMounted, ref } from 'vue'

// What is said of the field belongs to the list, not to the note below it.
defineOptions({ inheritAttrs: false })
const props = defineProps<{ modelValue: string[]; known: string[]; placeholder?: string }>()
const emit = defineEmits<{ 'update:modelValue': [names: string[]] }>()
const select = ref<InstanceType<typeof ElSelect>>()
/** Within a popover the list stays a part of it: a click in a list outside would close the popover. */
const outside = ref(true)
onMounted(() => {
  const node: unknown = select.value?.$el
  outside.value = !(node instanceof Element && node.closest('.el-popover'))
})

const fold = (name: string): string => name.trim().toLowerCase()
/** Names that are not there, as far as that is known. */
const unknown = computed(() =>
  props.known.length ? props.modelValue.filter((name) => !props.known.map(fold).includes(fold(name))) : [],
)

function take(names: string[]): void {
  emit('update:modelValue', [...new Set(names.map((name) => name.trim()))].filter(Boolean))
}
</script>

<template>
  <ElSelect
    ref="select"
    v-bind="$attrs"
    class="names-field"
    multiple
    filterable
    allow-create
    default-first-option
    :persistent="false"
    :teleported="outside"
    append-to="#over"
    :model-value="modelValue"
    :placeholder="placeholder"
    no-data-text="Type a name"
    @update:model-value="take"
    @click.capture.prevent
  >
    <ElOption v-for="name in known" :key="name" :value="name" :label="name" />
  </ElSelect>
  <span v-if="unknown.length" class="unknown small" role="status"
    >▲ There is no {{ unknown.map((name) => `“${name}”`).join(', ') }}.</span
  >
</template>

<style scoped>
.unknown {
  color: var(--marmalade);
}
</style>
