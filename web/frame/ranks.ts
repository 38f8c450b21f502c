import type { Role } from '../../server/staff/messages.ts';

const RANK: Readonly<Record<Role, number>> = { reader: 0, biller: 1, owner: 2 };

/** Whether somebody of a role comes to what is open from another role on. */
export const isAtLeast = (role: Role, least: Role): boolean => RANK[role] >= RANK[least];
