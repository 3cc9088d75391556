<script setup lang="ts">
import InputText from "primevue/inputtext";
import Message from "primevue/message";
import { computed, ref } from "vue";
import { useRoute } from "vue-router";
import { api, sentence, type Truck } from "../api/client";
import { sizeWords } from "../lib/sold";
import { useJob } from "../stores/job";
import { s } from "../strings";
import FileLinks from "../fields/FileLinks.vue";
import FoldLine from "../fields/FoldLine.vue";
import ProductForm from "./ProductForm.vue";

/** Every product of the library by kind, with what the crew made of it; the whole kit as a file in and out. */
const props = defineProps<{ truck: Truck }>();
const job = useJob();
const route = useRoute();
const wanted = ref("");
const open = ref<string | null>(null);
const problem = ref<string | null>(null);
const own = (name: string) => job.state?.job.kit?.products?.[name];
const called = (name: string) => own(name)?.name || name;
const found = computed(() => {
  const words = wanted.value.trim().toLowerCase();
  const fits = (t: string) => t.toLowerCase().includes(words);
  return props.truck.products.filter((p) => !words || [p.name, called(p.name), p.kind, p.supplier].some(fits));
});
const kinds = computed(() => [...new Set(found.value.map((p) => p.kind))]);

async function take(file: File) {
  const id = Number(route.params.id);
  const { data, error } = await api
    .POST("/api/jobs/{id}/kit", {
      params: { path: { id } },
      body: file as unknown as string,
      bodySerializer: (b) => b as unknown as BodyInit,
    })
    .catch(() => ({ data: undefined, error: undefined }));
  problem.value = data ? null : sentence(error, s.errors.offline);
  if (data) await job.change({ edit: "set_kit", kit: data }, file.name);
}
</script>

<template>
  <div data-test="kit">
    <FileLinks of="kit" :endings="['csv', 'xlsx', 'json']" :help="s.truck.kitHelp" @taken="take" />
    <Message v-if="problem" severity="error" data-test="kit-problem">{{ problem }}</Message>
    <InputText
      v-model="wanted"
      class="find"
      :placeholder="s.truck.find"
      :aria-label="s.truck.find"
      data-test="find-product"
      @keydown.stop
    />
    <p v-if="!found.length" class="quiet">{{ s.truck.noneFound(wanted) }}</p>
    <section v-for="k in kinds" :key="k">
      <h2>{{ k }}</h2>
      <FoldLine
        v-for="p in found.filter((x) => x.kind === k)"
        :key="p.name"
        :open="open === p.name"
        :data-product="p.name"
        @toggle="open = open === p.name ? null : p.name"
      >
        <template #head>
          <span
            >{{ called(p.name) }}<small v-if="called(p.name) !== p.name" class="generic">{{ p.name }}</small
            ><small v-if="own(p.name)?.of" class="generic">{{ s.truck.moreOf(own(p.name)?.of ?? "") }}</small></span
          >
          <span class="quiet"
            >{{ p.sizes?.map(sizeWords).join(", ") || s.truck.byPiece
            }}<b v-if="own(p.name)"> · {{ s.truck.ownMark }}</b></span
          >
        </template>
        <ProductForm :product="p.name" :truck="truck" />
      </FoldLine>
    </section>
  </div>
</template>

<style scoped>
section {
  margin-top: 16px;
}
h2 {
  font-size: 1.05rem;
  text-transform: capitalize;
  border-bottom: 1.5px solid var(--ink);
}
.find {
  width: min(360px, 100%);
  margin-top: 10px;
}
.generic {
  margin-left: 8px;
}
small {
  color: var(--ink-soft);
}
</style>
