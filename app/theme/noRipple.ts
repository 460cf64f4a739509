import type { Directive } from 'vue';

/**
 * In the place of PrimeVue's ripple, which is switched off here: its hooks would still run for every button and every option of a list,
 * a twelfth of what it takes to draw one.
 */
const noRipple: Directive = {};
export default noRipple;
