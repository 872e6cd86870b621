import { ref } from 'vue'
import type { Ref } from 'vue'
import { useRoute } from 'vue-router'

/**
 * The number in the address that a page was opened with. It stays: the route moves on before its
 * page is gone, and what is saved while one leaves must not go to what is opened next.
 */
export const useRouteId = (): Ref<number> => ref(Number(useRoute().params.id))
