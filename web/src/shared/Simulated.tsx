/** The mark of a run that comes from the simulator, wherever the run is named. */
export function Simulated() {
  return (
    <span className="border-base-content mr-1.5 border border-dashed px-1 text-[11px] leading-4 whitespace-nowrap">
      simulated
    </span>
  )
}
