import { useState } from "react";
import { type MyProject, useChosen } from "../api/project";
import { useMe } from "../api/session";
import { Field, Select } from "../ui";

/** The project that something new is made in: the chosen one, the only one, or one that is asked for. */
export function useOneProject(may: (p: MyProject) => boolean) {
  const projects = useMe().projects.filter(may);
  const chosen = useChosen();
  const [project, setProject] = useState(projects.find((p) => p.id === chosen?.id)?.id ?? (projects.length === 1 ? (projects[0]?.id ?? "") : ""));
  return { projects, project, setProject };
}

/** Asks which project it is, where there is more than one. */
export function ProjectField({ of: { projects, project, setProject } }: { of: ReturnType<typeof useOneProject> }) {
  return projects.length > 1 ? (
    <Field label="Project">
      {(ids) => (
        <Select {...ids} options={[["", "not chosen"], ...projects.map((p) => [p.id, p.name] as const)]} value={project} onChange={(e) => setProject(e.target.value)} />
      )}
    </Field>
  ) : null;
}
