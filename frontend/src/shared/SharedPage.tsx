import { useQuery } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";

import { shared } from "../api/queries";
import { Chain } from "../script/Chain";
import { Ladder, Strengths } from "../script/Parts";
import { RightAndWrong } from "../ui/RightAndWrong";
import { Trouble, Waiting } from "../ui/parts";
import { day } from "../ui/days";

/** What the rider reads: good things first, one thing to change, how to practise it. */
export function SharedPage() {
  const { token } = useParams({ from: "/s/$token" });
  const data = useQuery(shared(token));
  if (data.error) return <Trouble error={data.error} />;
  if (!data.data) return <Waiting what="Loading" />;
  const { prescription: p, ...d } = data.data;
  return (
    <main className="mx-auto grid max-w-xl gap-5 p-4 text-[1.05rem]">
      <header>
        <h1 className="text-2xl">{d.rider}</h1>
        <p className="text-soft">
          from {d.coach}, {d.club} · {new Date(d.approved_at).toLocaleDateString()}
        </p>
      </header>
      {d.message && <p className="whitespace-pre-wrap">{d.message}</p>}
      {p.strengths.length > 0 && (
        <section>
          <h2 className="mb-1 text-lg">What is good</h2>
          <Strengths strengths={p.strengths} />
        </section>
      )}
      {p.intention && p.intention.answer !== "cannot_tell" && (
        <section>
          <h2 className="mb-1 text-lg">What you were trying{p.intention.text && `: ${p.intention.text}`}</h2>
          <p>{p.intention.why}</p>
        </section>
      )}
      {p.gear.length > 0 && (
        <section>
          <h2 className="mb-1 text-lg">{p.gear.some((g) => g.first) ? "Your gear first" : "Your gear"}</h2>
          {p.gear.map((g) => (
            <p key={g.text}>{g.text}</p>
          ))}
        </section>
      )}
      {p.main ? (
        <section className="grid gap-3">
          <h2 className="text-lg">The one thing</h2>
          <p className="rounded-lg bg-deep px-4 py-3 text-xl font-semibold text-on-deep">{p.main.cue}</p>
          <p>{p.main.why}</p>
          {d.figure && <RightAndWrong discipline={d.discipline} fault={p.main.fault} figure={d.figure} />}
        </section>
      ) : (
        <p>{d.nothing_words}</p>
      )}
      {d.pictures.map((x) => (
        <figure key={x.order}>
          <img src={x.url} alt={x.caption} className="w-full rounded-lg" />
          <figcaption className="text-sm text-soft">{x.caption}</figcaption>
        </figure>
      ))}
      {p.main && (
        <section>
          <h2 className="mb-1 text-lg">Why</h2>
          <Chain prescription={p} titles={d.titles} />
        </section>
      )}
      {p.drills
        .filter((x) => x.fault === p.main?.fault)
        .map((x) => (
          <section key={x.id}>
            <h2 className="mb-1 text-lg">How to practise</h2>
            <Ladder drill={x} />
          </section>
        ))}
      {d.targets.length > 0 && (
        <section>
          <h2 className="mb-1 text-lg">Next time, on {day(d.retest_on)}</h2>
          <ul className="grid gap-1">
            {d.targets.map((t) => (
              <li key={t}>{t}</li>
            ))}
          </ul>
        </section>
      )}
      <section className="border-t border-line pt-3 text-sm text-soft">
        <h2 className="mb-1 font-semibold">Take care</h2>
        <ul className="grid gap-1">
          {p.cautions.map((c) => (
            <li key={c}>{c}</li>
          ))}
        </ul>
      </section>
    </main>
  );
}
