/** What a server tells its pages that it has changed. Pages then ask for what they show: an update carries no data. */
export const TOPICS = ['bakes', 'workers', 'arriving'] as const;
export type Topic = (typeof TOPICS)[number];

export const isTopic = (text: unknown): text is Topic => (TOPICS as readonly unknown[]).includes(text);
