import { createApp } from 'vue';
import Stroll from './Stroll.vue';

createApp(Stroll).mount('#app');
