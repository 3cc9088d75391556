<script setup lang="ts">
import Button from "primevue/button";
import { ref } from "vue";
import type { CallView, Go, PracticeAnswer, SceneView } from "../api/client";
import { s } from "../strings";

/** Weather on a step: go, prepare or wait. */
const props = defineProps<{ scene: SceneView; busy: boolean }>();
const emit = defineEmits<{ answer: [answer: PracticeAnswer] }>();
const calls = ref<(Go | null)[]>(props.scene.calls.map(() => null));
const all: Go[] = ["go", "prepare", "wait"];
const weather = ({ now: c, dew_f: dew, skin_min: skin }: CallView) =>
  [
    c.surface_f != null ? s.practice.surface(c.surface_f) : "",
    c.air_f != null ? s.practice.air(c.air_f) : "",
    c.humidity != null ? s.practice.humidity(c.humidity) : "",
    c.wind_mph != null ? s.practice.wind(c.wind_mph) : "",
    c.wet ? s.practice.wet : "",
    c.frost ? s.practice.frost : "",
    c.sun ? s.practice.sun : "",
    c.rain_in_h != null ? s.practice.rainIn(c.rain_in_h) : "",
    dew != null ? s.practice.dew(dew) : "",
    skin != null ? s.practice.skin(skin) : "",
  ].filter((t) => t !== "");
function give() {
  const said = calls.value.filter((c): c is Go => c !== null);
  emit("answer", { drill: "call", calls: said });
}
</script>

<template>
  <div>
    <article v-for="(q, i) in scene.calls" :key="i">
      <div>
        <h3>{{ q.title }}</h3>
        <p v-for="p in q.products" :key="p">{{ p }}</p>
      </div>
      <ul class="weather">
        <li v-for="w in weather(q)" :key="w">{{ w }}</li>
      </ul>
      <div class="choices" role="group" :aria-label="q.title">
        <button
          v-for="g in all"
          :key="g"
          :class="{ on: calls[i] === g }"
          :aria-pressed="calls[i] === g"
          :data-call="`${i}-${g}`"
          @click="calls[i] = g"
        >
          {{ s.practice.go[g] }}
        </button>
      </div>
    </article>
    <details v-if="scene.call_rules.length" open class="rules" data-test="call-rules">
      <summary>{{ s.practice.callRules }}</summary>
      <ul>
        <li v-for="r in scene.call_rules" :key="r">{{ r }}</li>
      </ul>
    </details>
    <Button :label="s.practice.said" :disabled="calls.includes(null) || busy" data-test="call-it" @click="give" />
  </div>
</template>

<style scoped>
article {
  display: grid;
  grid-template-columns: minmax(0, 2fr) minmax(0, 2fr) minmax(200px, 1fr);
  gap: 12px;
  align-items: start;
  padding: 12px 0;
  border-bottom: 1px solid var(--line);
}
h3,
p {
  margin: 0 0 4px;
}
.weather {
  margin: 0;
  padding: 0;
  list-style: none;
  font-weight: 650;
}
.rules {
  margin: 12px 0 0;
}
.rules summary {
  min-height: 44px;
  font-weight: 650;
  cursor: pointer;
}
.choices {
  display: grid;
  gap: 6px;
}
.choices button {
  min-height: 48px;
  font: inherit;
  font-weight: 650;
  color: var(--ink);
  background: var(--sheet);
  border: 1.5px solid var(--ink);
  border-radius: 6px;
}
.choices .on {
  color: var(--shell-ink);
  background: var(--shell);
}
div > :deep(.p-button) {
  min-height: 48px;
  margin-top: 12px;
}
@media (max-width: 760px) {
  article {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
