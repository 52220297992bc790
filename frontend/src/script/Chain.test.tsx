// @vitest-environment jsdom
import { render, screen } from "@testing-library/react";
import { expect, it } from "vitest";

import { findingOf, mainOf, prescriptionOf } from "../fixtures";
import { Chain } from "./Chain";

const finding = (fault: string, title: string, explains: string[]) => findingOf(fault, "root", { title, explains });

it("draws the cause first and what follows from it beneath", () => {
  const prescription = prescriptionOf({
    main: mainOf("not_level"),
    findings: [
      finding("not_level", "The inside shoulder drops", ["banking", "wide_feet"]),
      finding("banking", "Leaning in", []),
    ],
  });
  render(
    <Chain
      prescription={prescription}
      titles={{ not_level: "The inside shoulder drops", banking: "Leaning in" }}
      words={{ not_level: ["Shoulder tilt is 22 ± 5°"] }}
    />,
  );
  const text = document.body.textContent;
  expect(text.indexOf("The inside shoulder drops")).toBeLessThan(text.indexOf("Leaning in"));
  expect(screen.getByText("Shoulder tilt is 22 ± 5°")).toBeTruthy();
  expect(screen.getByText(/wide feet/)).toBeTruthy();
});

it("draws nothing where nothing was found", () => {
  const { container } = render(<Chain prescription={prescriptionOf()} titles={{}} />);
  expect(container.textContent).toBe("");
});
