/**
 * Functions by which a SELECT could change its own settings, run another text, or reach beyond the tables: no text of an
 * author's may call them.
 */
export const refusedFunctions: readonly string[] = [
  'set_config',
  'query_to_xml',
  'query_to_xmlschema',
  'query_to_xml_and_xmlschema',
  'cursor_to_xml',
  'cursor_to_xmlschema',
  'table_to_xml',
  'table_to_xmlschema',
  'table_to_xml_and_xmlschema',
  'schema_to_xml',
  'schema_to_xmlschema',
  'schema_to_xml_and_xmlschema',
  'database_to_xml',
  'database_to_xmlschema',
  'database_to_xml_and_xmlschema',
  'ts_stat',
  'ts_rewrite',
  'lo_creat',
  'lo_create',
  'lo_from_bytea',
  'lo_import',
  'lo_export',
  'lo_open',
  'lo_put',
  'lo_unlink',
  'lowrite',
  'lo_truncate',
  'lo_truncate64',
  'pg_advisory_lock',
  'pg_advisory_lock_shared',
  'pg_advisory_xact_lock',
  'pg_advisory_xact_lock_shared',
  'pg_try_advisory_lock',
  'pg_notify',
  'pg_terminate_backend',
  'pg_cancel_backend',
  'pg_reload_conf',
  'pg_export_snapshot',
  'pg_logical_emit_message',
  'pg_sleep',
  'pg_sleep_for',
  'pg_sleep_until',
  'txid_current',
  'pg_current_xact_id',
  'setseed',
  'nextval',
  'setval',
  'currval',
  'lastval',
]

/** Functions that tell of the engine itself: its settings, statistics, control file, files, locks and journal. */
export const tellingFunctions =
  '^(pg_stat|pg_control|pg_show|pg_ls|pg_read|pg_(try_)?advisory|pg_lock|pg_get_(wal|backend|shmem|aios)|pg_current_wal|pg_wal|pg_last|' +
  'pg_hba|pg_ident|pg_conf|pg_postmaster|pg_safe|pg_log|pg_replication|pg_copy|pg_create|pg_drop|pg_switch|pg_promote|pg_backup|' +
  'pg_file|pg_database_size|pg_tablespace|inet_|current_setting$|binary_upgrade|pg_prepared|pg_cursor|pg_available|pg_timezone)'
