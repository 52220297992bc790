// @vitest-environment jsdom
import { render, screen } from "@testing-library/react";
import { expect, it } from "vitest";

import type { Prescription } from "../api/client";
import { Chain } from "./Chain";

const finding = (fault: string, explains: string[]) => ({ fault, explains, status: "root", verdict: "clear", side: "both", share: 1, severity: 1, phase: null, because_of: [], evidence: [] });

it("draws the cause first and what follows from it beneath", () => {
  const prescription = {
    main: { fault: "not_level", side: "both", why: "", cue: "" },
    findings: [finding("not_level", ["banking", "wide_feet"]), finding("banking", [])],
  } as unknown as Prescription;
  render(<Chain prescription={prescription} titles={{ not_level: "The inside shoulder drops", banking: "Leaning in" }} words={{ not_level: ["Shoulder tilt is 22 ± 5°"] }} />);
  const text = document.body.textContent!;
  expect(text.indexOf("The inside shoulder drops")).toBeLessThan(text.indexOf("Leaning in"));
  expect(screen.getByText("Shoulder tilt is 22 ± 5°")).toBeTruthy();
  expect(screen.getByText(/wide feet/)).toBeTruthy();
});

it("draws nothing where nothing was found", () => {
  const { container } = render(<Chain prescription={{ main: null, findings: [] } as unknown as Prescription} titles={{}} />);
  expect(container.textContent).toBe("");
});
