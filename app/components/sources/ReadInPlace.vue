<script setup lang="ts">
import type { TriedServer } from '../../../core/api/intake'

/** What was found at a server that is to be read in place, and what of it is wanted. */
const { tried } = defineProps<{ tried: TriedServer }>()
const schemas = defineModel<string[]>('schemas', { required: true })
const zone = defineModel<string>('zone', { required: true })
const day = defineModel<string>('day', { required: true })
const evenSuperuser = defineModel<boolean>('evenSuperuser', { required: true })

function take(schema: string, wanted: boolean): void {
  schemas.value = wanted ? [...schemas.value, schema] : schemas.value.filter(each => each !== schema)
}
</script>

<template>
  <div class="min-w-80 max-w-2xl grow space-y-4" data-tried role="status">
    <div>
      <h2 class="font-display text-lg font-semibold">{{ t('readInPlace.reached') }}</h2>
      <p class="text-sm">
        {{
          t('readInPlace.postgresqlAsItsClockShows', {
            version: tried.version,
            place: tried.place,
            what: tried.encrypted ? t('readInPlace.encrypted') : t('readInPlace.notEncrypted'),
            now: tried.now,
            zone: tried.zone,
          })
        }}
      </p>
      <p v-for="note in tried.notes" :key="note" class="mt-1 text-sm text-apricot-700 dark:text-apricot-300">{{ note }}</p>
    </div>
    <fieldset v-if="tried.schemas.length">
      <legend class="mb-1 text-sm font-semibold">{{ t('readInPlace.schemasThatAreRead') }}</legend>
      <UCheckbox
        v-for="schema in tried.schemas"
        :key="schema.name"
        size="sm"
        class="py-0.5"
        :model-value="schemas.includes(schema.name)"
        @update:model-value="take(schema.name, $event === true)"
      >
        <template #label
          ><span
            >{{ schema.name }}
            <span class="font-normal text-muted"
              >· {{ schema.tables }} {{ t('common.tableTables', schema.tables) }}, {{ rowWords(schema.rows) }}</span
            ></span
          ></template
        >
      </UCheckbox>
      <p v-if="schemas.length > 1" class="mt-1 text-sm text-muted">
        {{ t('readInPlace.tablesOfAreCalledBy', { schemas: schemas[0] }) }}
      </p>
    </fieldset>
    <UCheckbox
      v-if="tried.superuser"
      v-model="evenSuperuser"
      size="sm"
      :label="t('readInPlace.readAsThisUserAll')"
      :description="t('readInPlace.estanteOnlyEverReadsBut')"
    />
    <div class="flex flex-wrap gap-3">
      <UFormField :label="t('readInPlace.timeZoneOfTheCompany')" size="sm" class="w-56" :help="t('readInPlace.forMomentsThatTheServer')">
        <UInput v-model="zone" size="sm" class="w-full" :placeholder="tried.zone" />
      </UFormField>
      <UFormField :label="t('readInPlace.today')" size="sm" class="w-56" :help="t('readInPlace.emptyTheDayItIs')">
        <DayField v-model="day" size="sm" class="w-full" :label="t('readInPlace.today')" clearable />
      </UFormField>
    </div>
  </div>
</template>
