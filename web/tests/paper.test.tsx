import { cleanup, fireEvent, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { Schema } from "../src/api/client";
import { ConnectionDialog } from "../src/features/instruments/connection";
import { Paper } from "../src/features/sign/paper";
import { running } from "./demo";
import { problem, screen, server } from "./screen";

afterEach(cleanup);

const attempt = () => {
  const a = running().attempts.at(-1);
  if (!a) throw new Error("the demo's run has an attempt");
  return a;
};

describe("the paper on the screen", () => {
  it("offers the PDF in the size and form that are chosen, one page for a quick test", async () => {
    const { getByText, getByLabelText } = await screen(<Paper attempt={attempt()} form="quick" signed />, running());
    const link = () => getByText("Download the PDF").getAttribute("href") ?? "";
    expect(link()).toContain("paper=a4&form=certificate");
    fireEvent.change(getByLabelText("Paper"), { target: { value: "letter" } });
    fireEvent.change(getByLabelText("Form"), { target: { value: "report" } });
    expect(link()).toContain("paper=letter&form=report");
  });

  it("says that an unsigned report is a draft", async () => {
    const { getByText } = await screen(<Paper attempt={attempt()} form="pack" signed={false} />, running());
    expect(getByText(/a draft until somebody signs/)).toBeTruthy();
    expect(getByText(/carries no seal/)).toBeTruthy();
  });

  it("shows the pages as pictures with a name, only when asked", async () => {
    const made = vi.fn(() => "blob:page");
    vi.stubGlobal("URL", Object.assign(URL, { createObjectURL: made, revokeObjectURL: () => {} }));
    vi.stubGlobal("fetch", async () => Response.json(["<svg/>", "<svg/>"]));
    const { getByText, findAllByRole, queryAllByRole } = await screen(<Paper attempt={attempt()} form="pack" signed />, running());
    expect(queryAllByRole("img").length).toBe(0);
    fireEvent.click(getByText("show the pages"));
    const pages = await findAllByRole("img");
    expect(pages.map((p) => p.getAttribute("alt"))).toEqual([expect.stringContaining("Page 1 of 2"), expect.stringContaining("Page 2 of 2")]);
    expect(made).toHaveBeenCalledTimes(2);
  });
});

describe("an instrument over Modbus", () => {
  const view = {
    instrument: { tag: "PT-9", kind: "gauge", certificate: "C", calibrated_on: "2026-01-01", valid_until: "2027-01-01", unit: "psi" },
    version: 3,
    objection: null,
  } as Schema["InstrumentView"];

  it("sends where it answers, at the version that was looked at", async () => {
    const closed = vi.fn();
    const { getByLabelText, getByText, getByRole } = await screen(<ConnectionDialog view={view} onClose={closed} />, running());
    const sent = server(running());
    expect(getByText("Scale: figure × scale = psi")).toBeTruthy();
    const type = (label: string, text: string) => fireEvent.change(getByLabelText(label), { target: { value: text } });
    type("Address in the site's network", " 192.168.1.20 ");
    type("Port", "1502");
    type("Modbus unit", "17");
    type("First register", "40");
    type("Scale: figure × scale = psi", "0,01");
    fireEvent.submit(getByRole("button", { name: "Store it" }));
    await waitFor(() => expect(closed).toHaveBeenCalled());
    expect(sent[0]?.headers.get("if-match")).toBe('"v3"');
    expect(sent[0]?.body).toMatchObject({
      tag: "PT-9",
      connection: { address: "192.168.1.20", port: 1502, unit: 17, register: 40, scale: 0.01, form: "f32", holding: false },
    });
  });

  it("refuses what is no register, and shows what the server refuses", async () => {
    const { getByLabelText, getByRole, findByText } = await screen(<ConnectionDialog view={view} onClose={() => {}} />, running());
    const sent = server(running(), problem(422, "Unit 999 is not a Modbus unit: it must be inside 1 to 247.", "connection.unit"));
    fireEvent.change(getByLabelText("First register"), { target: { value: "4.5" } });
    fireEvent.submit(getByRole("button", { name: "Store it" }));
    expect(await findByText("The register is a whole number from 0 to 65535.")).toBeTruthy();
    expect(sent.length).toBe(0);
    fireEvent.change(getByLabelText("First register"), { target: { value: "4" } });
    fireEvent.change(getByLabelText("Modbus unit"), { target: { value: "999" } });
    fireEvent.submit(getByRole("button", { name: "Store it" }));
    expect(await findByText(/Unit 999 is not a Modbus unit/)).toBeTruthy();
  });
});
