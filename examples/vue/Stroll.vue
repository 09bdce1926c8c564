<script setup lang="ts">
import { accuracyText, ageText, lengthText, positionText } from 'aurelian-drift';
import { browserStore } from 'aurelian-drift/stores';
import { useAge, useFollow, useLive, useMap, useReceiver, useRecorder } from 'aurelian-drift/vue';
import { ref, useTemplateRef, watchEffect } from 'vue';
import { look, tapsOn, where } from '../shared/source.js';

const on = ref(false);
const receiver = useReceiver(() => ({ ...where(), purpose: 'Show your stroll on the map.' }));
const follow = useFollow(receiver, () => (on.value ? { every: 1 } : undefined));
const recording = useRecorder({ store: browserStore(), name: 'Stroll in Vue' }, follow);
const fix = useLive(() => receiver.value?.$fix);
const age = useAge(() => receiver.value?.$fix);
const status = useLive(() => receiver.value?.$status);
const summary = useLive(() => recording.value.recorder?.$summary);
const map = useMap(useTemplateRef<HTMLElement>('map'), () => ({
  receiver: receiver.value,
  label: 'Your stroll',
  ...look(),
}));
watchEffect(() => tapsOn(map.value));
</script>

<template>
  <h1>Stroll</h1>
  <button @click="on = !on">{{ on ? 'Stop' : 'Start' }}</button>
  <p v-if="status?.state === 'failed'" role="alert">
    {{ status.error.userText }} {{ status.error.remedy.text }}
  </p>
  <dl>
    <dt>Position</dt>
    <dd id="position">{{ positionText(fix) }} {{ accuracyText(fix?.accuracy) }}</dd>
    <dt>Age</dt>
    <dd>{{ ageText(age) }}</dd>
    <dt>Walked</dt>
    <dd id="walked">{{ lengthText(summary?.distance) }}</dd>
  </dl>
  <div class="map" ref="map"></div>
</template>
