export { stop as default } from './postgresForTests';
