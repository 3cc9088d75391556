<template>
  <!-- Scutes that overlap and shed water. -->
  <svg viewBox="0 0 32 32" aria-hidden="true" class="mark">
    <path d="M16 18.5 23 23l-7 4.2L9 23z" opacity=".5" />
    <path d="M9.500 11.500 16 15.500v4.600l-7.600 4.400-2.400-1.500v-9z" opacity=".75" />
    <path d="M22.500 11.500 16 15.500v4.600l7.600 4.400 2.400-1.500v-9z" opacity=".75" />
    <path d="M16 4.800 23.800 9.600 16 14.600 8.200 9.600z" />
  </svg>
</template>

<style scoped>
.mark {
  width: 30px;
  height: 30px;
  fill: currentColor;
}
</style>
