import { api, need, type Schemas } from "../api/client";
import { FilmJob } from "../ui/FilmJob";

/** Keep the pair as a film. */
export const KeepFilm = ({ asked }: { asked: Schemas["PairFilmAskedRequest"] }) => (
  <FilmJob
    what="pair"
    label="Film"
    onAsk={() => need(api.POST("/api/pair/films", { body: asked }))}
    onLook={(film) => need(api.GET("/api/pair/films/{film}", { params: { path: { film } } }))}
    onStop={(film) => need(api.DELETE("/api/pair/films/{film}", { params: { path: { film } } }))}
  />
);
