import { isValidIso11649, generateIso11649 } from 'node-iso11649'
import { describe, expect, it } from 'vitest'
