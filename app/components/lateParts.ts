import { latePart } from '~/composables/latePart';

/* Parts that most screens do without at first: each is read when it is first needed. */

export const CascadePicture = latePart(() => import('./design/CascadePicture.vue'));
export const ClashDialog = latePart(() => import('./entry/ClashDialog.vue'));
export const FileInput = latePart(() => import('./entry/FileInput.vue'));
export const FillOverTime = latePart(() => import('./evidence/FillOverTime.vue'));
export const FormulaEditor = latePart(() => import('./design/FormulaEditor.vue'));
export const GoTo = latePart(() => import('./parts/GoTo.vue'));
export const HelpDrawer = latePart(() => import('./guide/HelpDrawer.vue'));
export const OverAll = latePart(() => import('./parts/OverAll.vue'));
export const RecordCalendar = latePart(() => import('./records/RecordCalendar.vue'));
export const RecordHistory = latePart(() => import('./entry/RecordHistory.vue'));
export const RelatedRows = latePart(() => import('./entry/RelatedRows.vue'));
export const SavedBefore = latePart(() => import('./entry/SavedBefore.vue'));
export const WhyPanel = latePart(() => import('./entry/WhyPanel.vue'));
