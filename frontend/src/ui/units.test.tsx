import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { useState } from "react";
import { afterEach, expect, it } from "vitest";

import { heightWords, Measure, UnitsContext, type Units } from "./units";

afterEach(cleanup);

function Form({ units, unit, start }: { units: Units; unit: string; start: string }) {
  const [metric, setMetric] = useState(start);
  return (
    <UnitsContext.Provider value={units}>
      <Measure aria-label="Height" unit={unit} value={metric} onChange={setMetric} />
      <output>{metric}</output>
    </UnitsContext.Provider>
  );
}
const field = () => screen.getByLabelText<HTMLInputElement>("Height");
const kept = () => screen.getByRole("status").textContent;

it("a height is said in feet and inches where the coach wants it so", () => {
  expect(heightWords(175, "metric")).toBe("175 cm");
  expect(heightWords(175, "imperial")).toBe("5 ft 9 in");
  expect(heightWords(182.9, "imperial")).toBe("6 ft 0 in");
});

it("a number is typed in the coach's own unit and kept in the metric one", () => {
  render(<Form units="imperial" unit="m" start="3.048" />);
  expect(field().value).toBe("10");
  fireEvent.change(field(), { target: { value: "12,5" } });
  expect(field().value).toBe("12,5");
  expect(kept()).toBe("3.81");
  fireEvent.change(field(), { target: { value: "" } });
  expect(kept()).toBe("");
});

it("what is no number, or has no other unit, is kept as it is typed", () => {
  render(<Form units="imperial" unit="kn" start="15" />);
  fireEvent.change(field(), { target: { value: "about 20" } });
  expect(kept()).toBe("about 20");
  fireEvent.change(field(), { target: { value: "18" } });
  expect(kept()).toBe("18");
});
