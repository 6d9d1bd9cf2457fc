<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans;

/**
 * What a run did in all, on the scale of the modelled cluster; what an execution record says of it.
 */
final readonly class PlanTotals
{
    /** What receiving, planning and answering a statement takes before and after its steps. */
    private const STATEMENT_US = 2500;

    private function __construct(
        public int $durationUs,
        public int $rowsExamined,
        public int $bytesScanned,
        public int $bytesSpilled,
        /** Whether a table of more than a handful of chunks was read whole. */
        public bool $fullScan,
    ) {
    }

    /** The same with more time and what another part read. */
    public function grownBy(int $durationUs, self $other): self
    {
        return new self(
            $this->durationUs + $other->durationUs + $durationUs,
            $this->rowsExamined + $other->rowsExamined,
            $this->bytesScanned + $other->bytesScanned,
            $this->bytesSpilled + $other->bytesSpilled,
            $this->fullScan || $other->fullScan,
        );
    }

    public static function of(Plan $plan): self
    {
        [$rows, $bytes, $spilled, $full] = [0, 0, 0, false];
        foreach ($plan->steps() as $step) {
            if ($step->kind === StepKind::Scan) {
                $rows += (int) ($step->rows->in ?? 0);
                $bytes += $step->reads->bytes ?? 0;
                $full = $full || (($step->reads->chunksTotal ?? 0) >= 16 && $step->reads->chunks === $step->reads->chunksTotal);
            }
            $spilled += $step->cost->bytesSpilled ?? 0;
        }

        return new self(
            self::STATEMENT_US + ($plan->sumUs() ?? 0),
            $rows * $plan->rowFactor,
            $bytes * $plan->rowFactor,
            $spilled * $plan->rowFactor,
            $full,
        );
    }
}
