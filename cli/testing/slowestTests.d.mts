export const SLOWEST_FILE: string;
export default class SlowestTests {}
