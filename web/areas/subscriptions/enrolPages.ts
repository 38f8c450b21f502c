// The pages that enrol, loaded together: they are made of the same parts.
export { EnrolManyPage } from './EnrolManyPage.tsx';
export { EnrolPage } from './EnrolPage.tsx';
