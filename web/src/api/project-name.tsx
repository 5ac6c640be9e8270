import { useProject } from "./project";
import { useMe } from "./session";

/** Whose page this is, for whoever has a part in more than one project. */
export function ProjectName() {
  const project = useProject();
  return useMe().projects.length > 1 && project ? <p className="m-0 text-sm font-semibold text-water">{project.name}</p> : null;
}
