import type { Router } from 'vue-router'
import { askNote, askTry, errand } from '@/bench/acts'
import { stagePath } from '@/router'
import type { NextTest } from './useJudgement'

/** Where each test is done: a note, a try, or a place in Probe, Measures or Level. */
const NOTES: Record<string, string> = {
  ask_charger: 'charger', ask_tool: 'tool', look_at_lamps: 'blink', ask_history: 'history', look_outside: 'seen', look_inside: 'seen',
  moving_blink: 'moving', moving_output: 'moving', moving_sensor: 'moving', moving_group_v: 'moving', rail_v: 'chip', gate_v: 'chip',
}
const RAILS: Record<string, string> = { rail_v: 'board_supply', gate_v: 'gate' }
const TRIES: Record<string, ['action' | 'swap', string]> = {
  clean_connector: ['action', 'cleaned_connector'], reseat: ['action', 'reseated'], resolder: ['action', 'resoldered'],
  swap_charger: ['swap', 'charger'], swap_tool: ['swap', 'tool'], swap_pack: ['swap', 'pack'], swap_harness: ['swap', 'harness'], swap_board: ['swap', 'board'],
}
const MEASURES: Record<string, string> = { resistance: 'resistance', acir: 'resistance', capacity: 'capacity', sensor_ohm: 'sensor', path_v: 'path', rest_fall: 'sets' }

/** Begin a test: its form, or the place where it is done with a line there that says what for. */
export function errandOf(test: NextTest, job: number, router: Router) {
  const note = NOTES[test.test]
  if (note) return askNote(note, test.says, RAILS[test.test])
  const tried = TRIES[test.test]
  if (tried) return askTry(...tried)
  errand.value = { job, says: test.says }
  const measure = MEASURES[test.test]
  if (measure) return void router.push({ path: `/jobs/${job}/measures`, query: { of: measure } })
  if (test.test === 'registers') return void router.push(`/jobs/${job}/chip`)
  void router.push(stagePath(job, test.test === 'charge_group' ? 'level' : 'probe'))
}
