<script setup lang="ts">
import Select from "primevue/select";
import { computed } from "vue";
import { useJob } from "../stores/job";
import { s } from "../strings";

/** Which product of a kind is used at an opening or on a wall, where the kit has several. */
const props = defineProps<{ opening: string }>();
const job = useJob();
const kit = computed(() => job.state?.job.kit?.products ?? {});
const called = (name: string) => kit.value[name]?.name || name;
const place = computed(() => {
  const all = job.state?.job;
  if (props.opening) return all?.openings?.find((o) => o.id === props.opening)?.products;
  return job.wall ? all?.wall.corners?.[job.wall - 1]?.products : all?.wall.products;
});
/** Chosen nowhere near; a list shows nothing for an empty text. */
const USUAL = "usual";
/** Generic products of which the kit has more than one. */
const kinds = computed(() => [...new Set(Object.values(kit.value).flatMap((p) => p.of || []))].sort());
const choices = (generic: string) => [
  { label: props.opening || job.wall ? s.made.asElsewhere : called(generic), value: USUAL },
  ...(props.opening || job.wall ? [{ label: called(generic), value: generic }] : []),
  ...Object.entries(kit.value)
    .filter(([, p]) => p.of === generic)
    .map(([name]) => ({ label: called(name), value: name })),
];
function use(product: string, other: string) {
  const wall = props.opening ? null : job.wall;
  const opening = props.opening || null;
  void job.change(
    { edit: "use_product", product, other: other === USUAL ? null : other, opening, wall },
    called(product),
  );
}
</script>

<template>
  <section v-if="kinds.length" class="here" :data-test="'products-' + (opening || 'wall')">
    <h4>{{ s.made.products }}</h4>
    <label v-for="k in kinds" :key="k"
      >{{ k }}
      <Select
        :model-value="place?.[k] ?? USUAL"
        :options="choices(k)"
        option-label="label"
        option-value="value"
        size="small"
        :disabled="!job.mayChange"
        :aria-label="k"
        :data-product-here="k"
        @update:model-value="(v: string) => use(k, v)"
      />
    </label>
  </section>
</template>

<style scoped>
h4 {
  margin: 14px 0 4px;
  font-size: 0.95rem;
}
label {
  display: grid;
  gap: 2px;
  margin-top: 6px;
  font-size: 0.9rem;
}
</style>
