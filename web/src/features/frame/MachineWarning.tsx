/** What a teacher should know of the machine: that its disk is nearly full, say. */
import { useHealth } from "../../api/queries/studio";

export function MachineWarning() {
  const warning = useHealth().data?.warning;
  return warning ? (
    <p role="alert" data-screen-only="" className="mx-8 mt-3 rounded-lg border-2 border-warn bg-card p-3 max-md:mx-4">
      {warning}
    </p>
  ) : null;
}
