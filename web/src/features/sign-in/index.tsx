import { zodResolver } from "@hookform/resolvers/zod";
import { useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { useForm } from "react-hook-form";
import { z } from "../../ui/schema";
import { http, sentence, setToken } from "../../api/client";
import { Button, Field, Problem, TextInput } from "../../ui";

const Form = z.object({ sign_in: z.string().min(1, "Type your name."), password: z.string().min(1, "Type your password."), code: z.string() });

/** True where the server asks for the second factor. */
const asksCode = (error: unknown) => ["/problems/code-needed", "/problems/wrong-code"].includes(String((error as { type?: string } | undefined)?.type));

export function SignIn() {
  const queries = useQueryClient();
  const [problem, setProblem] = useState("");
  const form = useForm({ resolver: zodResolver(Form), defaultValues: { sign_in: "", password: "", code: "" } });
  const [coded, setCoded] = useState(false);
  const { errors, isSubmitting } = form.formState;
  const submit = form.handleSubmit(async (body) => {
    setProblem("");
    try {
      const { data, error } = await http.POST("/api/v1/session", { body });
      if (!data) {
        setProblem(sentence(error));
        if (asksCode(error)) setCoded(true);
        return;
      }
      setToken(data.token);
      await queries.resetQueries();
    } catch (e) {
      setProblem(sentence(e));
    }
  });
  return (
    <main className="grid min-h-dvh place-items-center p-6">
      <form onSubmit={submit} className="grid w-full max-w-md gap-4 border border-hair bg-sheet p-8" noValidate>
        <div>
          <h1 className="m-0 text-2xl font-bold">Zero Leak</h1>
          <p className="m-0 mt-1 text-soft">Pressure tests: planned, run, judged, sealed.</p>
        </div>
        <Field label="Name" error={errors.sign_in?.message}>
          {(ids) => <TextInput {...ids} {...form.register("sign_in")} autoComplete="username" autoFocus />}
        </Field>
        <Field label="Password" error={errors.password?.message}>
          {(ids) => <TextInput {...ids} {...form.register("password")} type="password" autoComplete="current-password" />}
        </Field>
        {coded ? (
          <Field label="Six figures of your second factor">
            {(ids) => <TextInput {...ids} {...form.register("code")} inputMode="numeric" autoComplete="one-time-code" autoFocus />}
          </Field>
        ) : null}
        <Problem>{problem}</Problem>
        <Button type="submit" kind="main" size="large" disabled={isSubmitting}>
          Sign in
        </Button>
        <p className="m-0 text-sm">
          <Link to="/verify" className="text-water">
            Check a sealed file
          </Link>{" "}
          <span className="text-soft">without an account</span>
        </p>
        <p className="m-0 text-xs text-soft">The adopted code, the local law and a licensed or appointed person decide; this tool computes and records.</p>
      </form>
    </main>
  );
}
