export { useAlarm } from "./alarm";
export { Button, LinkButton } from "./button";
export { Dialog } from "./dialog";
export { Choice, Field, Select, TextInput } from "./field";
export { Note, NotNow, Problem } from "./note";
export { useKey, useKeysOn } from "./keys";
export { applyTheme, THEMES, type Theme, useTheme } from "./theme";
export { Skeleton } from "./skeleton";
export { HeadRow, Heading, Lead, Page, Rows, Section, Wide } from "./page";
