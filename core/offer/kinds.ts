/** The kinds of plans, with their names. */
export const PLAN_KINDS = {
  service: 'Service',
  goods: 'Goods to ship',
  course: 'Course',
  membership: 'Membership',
  donation: 'Donation',
} as const;
export type PlanKind = keyof typeof PLAN_KINDS;
