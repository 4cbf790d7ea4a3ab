import type { JobView } from '@/api/queries'

/** What a stage still wants, in a word or two for the ribbon; empty when it wants nothing. */
export function wantsOf(job: JobView, stage: string): string {
  const { facts, assessment } = job
  if (assessment.frozen) return ''
  if (stage === 'take_in') {
    if (assessment.quarantine.length) return 'held'
    return facts.safety?.length ? '' : 'safety'
  }
  if (assessment.quarantine.length || !facts.safety?.length) return ''
  if (stage === 'probe') return probeWants(job)
  if (stage === 'judge') return assessment.probe?.verdict.kind === 'readings_inconsistent' ? 'doubt' : ''
  if (stage === 'level') {
    const running = (facts.charges ?? []).filter((c) => !c.end).length
    return running ? 'charging' : ''
  }
  if (stage === 'prove') return assessment.proof && assessment.proof.result !== 'pass' ? assessment.proof.result.replace('_', ' ') : ''
  return ''
}

function probeWants(job: JobView): string {
  const groups = job.assessment.probe?.reconciled.groups
  const series = job.facts.intakes.at(-1)!.intake.pack.series
  const known = groups?.filter((g) => g.determined).length ?? 0
  return known < series ? `${known} of ${series}` : ''
}
