export { Button, LinkButton } from "./button";
export { Dialog } from "./dialog";
export { Choice, Field, Select, TextInput } from "./field";
export { Note } from "./note";
export { useKey, useKeysOn } from "./keys";
export { Heading, Lead, Page, Section } from "./page";
