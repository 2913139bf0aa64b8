/** Who is signed in, for whatever is shown otherwise to a student than to the teacher. What one may do is for the server
 * to say; here is only what it would be no use to show. */
import { createContext, useContext } from "react";

import type { Schemas } from "./client";

export type Me = Schemas["MePublic"];

/** Where nobody says: the teacher, who is shown everything. */
const TEACHER: Me = {
  role: "teacher",
  name: "",
  student_id: null,
  is_demo: false,
  is_set_up: true,
  has_demo: false,
};

export const MeContext = createContext<Me>(TEACHER);

export const useMe = () => useContext(MeContext);

/** Is it the teacher who looks? */
export const useIsTeacher = () => useMe().role === "teacher";
