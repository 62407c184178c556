<script setup lang="ts">
definePageMeta({ redirect: to => `/reports/${String(to.params.id)}/page` })
</script>

<template><div /></template>
