import { lightenParts } from '~/theme/lightParts';

export default defineNuxtPlugin(() => lightenParts());
