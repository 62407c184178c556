<script setup lang="ts">
/** What holds for the whole company: its days, its mail server, its printers. */
useHead({ title: t('settingsPage.settingsEstante') })
</script>

<template>
  <div class="flex min-h-dvh flex-col">
    <TopBar home />
    <main class="desk grow space-y-8 px-10 py-6 text-sm">
      <h1 class="sr-only">{{ t('common.settings') }}</h1>
      <SettingsCompanyDays />
      <SettingsMailServer />
      <SettingsCompanyPrinters />
    </main>
  </div>
</template>
