<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Demo;

use Fulcrion\Core\Plans\PlanTotals;
use Random\Randomizer;

/**
 * One statement of the demo world and how a healthy run of it behaves on the modelled cluster.
 */
final readonly class DemoStatement
{
    public function __construct(
        /** Text with {day}, {from}, {bay}, {site}, {n} and {id} for literals, {key} for endings of names. */
        public string $template,
        public string $team,
        public string $application,
        public string $database,
        public int $baseUs,
        public int $rowsExamined,
        public int $rowsReturned,
        public int $bytesScanned,
        public int $rowsAffected = 0,
        public bool $fullScan = false,
        /** Minutes between runs, or 0 when people run it. */
        public int $everyMinutes = 0,
        /** Minute of the day of a nightly run, or -1. */
        public int $nightlyAt = -1,
        /** How often people pick it among their team's statements. */
        public float $weight = 1.0,
        public string $trouble = '',
    ) {
    }

    /** The text with its literals, as of a moment. */
    public function fill(int $second, Randomizer $random): string
    {
        return (string) preg_replace_callback(
            '~\{(\w+)\}~',
            static fn (array $match): string => match ($match[1]) {
                'day' => gmdate('Y-m-d', $second),
                'lately' => gmdate('Y-m-d H:i:00', $second - 4 * 3600),
                'eve' => gmdate('Y-m-d', $second - 86_400),
                'week' => gmdate('Y-m-d', $second - 86_400 * 6),
                'from' => gmdate('Y-m-d', $second - 86_400 * 13),
                // Of a week that has days: that of Monday morning has none yet.
                'year' => gmdate('o', $second - 86_400 * 3),
                'weekno' => (string) (int) gmdate('W', $second - 86_400 * 3),
                'house' => (string) $random->getInt(1, 46),
                'some' => (string) $random->getInt(5, 60),
                'bay' => (string) $random->getInt(1, 184),
                'site' => ['northfield', 'low-meadow', 'ridge', 'harbour'][$random->getInt(0, 3)],
                'n' => (string) $random->getInt(2, 60),
                'id' => (string) $random->getInt(1, 150_000),
                'key' => gmdate('Ymd', $second).'_'.$random->getInt(1000, 9999),
                default => $match[0],
            },
            $this->template,
        );
    }

    /** The same with figures counted on a practice cluster in place of assumed ones. */
    public function measured(PlanTotals $totals, int $rowsReturned): self
    {
        $writes = $this->rowsAffected > 0;

        return new self(
            $this->template,
            $this->team,
            $this->application,
            $this->database,
            // Writing is not modelled by the cluster; what it is assumed to take comes on top.
            $totals->durationUs + ($writes ? $this->baseUs : 0),
            $totals->rowsExamined,
            $writes ? 0 : $rowsReturned,
            $totals->bytesScanned,
            $this->rowsAffected,
            $totals->fullScan,
            $this->everyMinutes,
            $this->nightlyAt,
            $this->weight,
            $this->trouble,
        );
    }
}
