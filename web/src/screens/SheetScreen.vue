<script setup lang="ts">
import Button from "primevue/button";
import Select from "primevue/select";
import { computed, shallowRef, watch } from "vue";
import { useRoute } from "vue-router";
import SizeText from "../fields/SizeText.vue";
import { api, type Comparison } from "../api/client";
import ExplodedDrawing from "../wall/ExplodedDrawing.vue";
import ScreenBar from "../shell/ScreenBar.vue";
import BuiltSection from "../wall/BuiltSection.vue";
import SectionPicture from "../wall/SectionPicture.vue";
import { ownAnswers, questionsOf } from "../lib/answers";
import CheckList from "../wall/CheckList.vue";
import StepPicture from "../wall/StepPicture.vue";
import { useChecks } from "../wall/useChecks";
import { usePictures } from "../wall/usePictures";
import { useJob } from "../stores/job";
import { s } from "../strings";

const job = useJob();
/** The pictures of the finished opening: one side held against itself. */
const pictures = shallowRef<Comparison["sides"][number] | null>(null);

/** A link to one opening names it. */
const route = useRoute();
watch(
  () => job.state?.id,
  () => {
    const at = (job.state?.job.openings ?? []).findIndex((o) => o.id === route.query.place);
    if (at >= 0) job.opening = at;
  },
  { immediate: true },
);
const openings = computed(() =>
  (job.state?.job.openings ?? []).map((o, i) => ({ label: `${o.id} · ${o.name}`, value: i, id: o.id, name: o.name })),
);
const opening = computed(() => openings.value[job.opening] ?? openings.value[0]);
const steps = computed(() => (job.view?.steps ?? []).filter((x) => x.opening === opening.value?.id && !x.removed));
const made = computed(() =>
  questionsOf(job.view?.schools ?? [], opening.value?.id ?? "")
    .filter((q) => q.at_openings)
    .map((q) => q.choices.find((c) => c.id === q.choice)?.name ?? ""),
);
watch(
  () => [job.state?.revision, opening.value?.id] as const,
  async () => {
    const now = job.state;
    const id = opening.value?.id;
    if (!now || !id) return;
    const wall = job.view?.elevation.openings.find((o) => o.id === id)?.wall ?? 0;
    const own = ownAnswers(now, id, wall);
    const { data } = await api
      .POST("/api/jobs/{id}/compare", {
        params: { path: { id: now.id } },
        body: { opening: id, sides: [own, own] },
      })
      .catch(() => ({ data: undefined }));
    pictures.value = data?.sides[0] ?? null;
  },
  { immediate: true },
);
const checks = useChecks(() => (opening.value ? { opening: opening.value.id } : null));
const small = usePictures(() => (opening.value ? { opening: opening.value.id } : null));
const of = (step: string) => [small.value.get(step)].filter((p) => p !== undefined);
const print = () => window.print();
</script>

<template>
  <div>
    <ScreenBar :title="s.sheet.title">
      <Button text :label="s.sheet.print" @click="print" />
    </ScreenBar>
    <main v-if="job.view && opening" class="sheet" data-test="sheet">
      <p v-if="openings.length > 1" class="no-print">
        <Select
          v-model="job.opening"
          :options="openings"
          option-label="label"
          option-value="value"
          :aria-label="s.made.opening"
        />
      </p>
      <h2>{{ opening.id }} · {{ opening.name }}</h2>
      <p class="quiet">{{ s.sheet.made }}: {{ made.join(" · ") }}</p>
      <div v-if="pictures" class="pictures">
        <figure v-for="sec in pictures.sections" :key="sec.kind">
          <BuiltSection v-if="sec.built" bare :section="sec" />
          <SectionPicture v-else :section="sec" />
          <figcaption>{{ s.section[sec.kind] }}</figcaption>
        </figure>
        <figure>
          <ExplodedDrawing :exploded="pictures.exploded ?? null" />
          <figcaption>{{ s.apart.title }}</figcaption>
        </figure>
      </div>
      <ol>
        <li v-for="step in steps" :key="step.id">
          <h3>{{ step.title }}</h3>
          <StepPicture v-for="p in of(step.id)" :key="p.step" :picture="p" class="small" />
          <p v-for="(c, i) in step.cuts" :key="i" class="cut">
            <b>{{ c.letter }}</b> {{ c.name }} <strong><SizeText :text="c.size" /></strong>
          </p>
          <p><SizeText :text="step.card.what" /></p>
          <p v-if="step.card.over">
            <b>{{ step.card.over }}</b>
          </p>
          <p>
            <b>{{ s.card.check }}:</b> <SizeText :text="step.card.check" />
          </p>
          <CheckList :checks="checks.filter((c) => c.step === step.id)" />
          <p class="quiet">
            <b>{{ s.card.why }}:</b> {{ step.card.why }}
          </p>
          <p v-for="t in step.primes" :key="t">{{ s.card.prime }} {{ t }}</p>
          <p v-for="w in step.waits" :key="w.after + w.hours">
            <b>{{ s.card.wait(w.hours, w.after) }}</b>
          </p>
          <p v-if="step.card.caution" class="caution">
            <b>{{ s.card.caution }}:</b> {{ step.card.caution }}
          </p>
        </li>
      </ol>
      <p class="quiet">{{ s.sizes.authority }}</p>
    </main>
    <p v-else class="page" aria-busy="true">{{ s.wall.loading }}</p>
  </div>
</template>

<style scoped>
.sheet {
  max-width: 1060px;
  margin: 0 auto;
  padding: 12px 16px 40px;
}
.pictures {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 8px;
  margin: 10px 0;
}
figure {
  display: flex;
  flex-direction: column;
  min-height: 220px;
  margin: 0;
  border: 1px solid var(--line);
}
figcaption {
  text-align: center;
  font-size: 0.8rem;
}
ol {
  columns: 2;
  column-gap: 28px;
  padding-left: 22px;
}
li {
  display: flow-root;
  break-inside: avoid;
  margin-bottom: 12px;
}
li::marker {
  font-weight: 700;
}
.small {
  float: right;
  width: 176px;
  max-height: 150px;
  margin: 0 0 6px 12px;
  border: 1px solid var(--line);
}
h3 {
  font-size: 1rem;
}
.cut strong {
  font-size: 1.1rem;
}
.caution {
  padding-left: 8px;
  border-left: 4px solid var(--glue);
}
@media screen and (max-width: 760px) {
  ol {
    columns: 1;
  }
  .pictures {
    grid-template-columns: 1fr 1fr;
  }
}
@media print {
  .sheet {
    max-width: none;
    padding: 0;
    font-size: 0.66rem;
  }
  h3 {
    font-size: 0.8rem;
  }
  .cut strong {
    font-size: 0.85rem;
  }
  figure {
    min-height: 170px;
  }
  li {
    margin-bottom: 8px;
  }
  .caution {
    border-left-color: #000;
  }
}
</style>
