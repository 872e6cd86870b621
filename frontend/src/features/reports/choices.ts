import { useQuery } from '@tanstack/vue-query'

import { api, ask } from '@/api/client'

/** What reports are given out as, and which templates there are. */
export const useChoices = () =>
  useQuery({
    queryKey: ['reports', 'choices'],
    queryFn: () => ask(api.GET('/api/reports/choices')),
    staleTime: Infinity,
  })
