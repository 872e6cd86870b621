/** The time zone of this desk. */
export const here = Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC'

/** All time zones, that of this desk first. */
export const ZONES = [...new Set([here, 'UTC', ...Intl.supportedValuesOf('timeZone')])]
