<?php

declare(strict_types=1);

namespace App\Health\Probes;

use App\Platform\Figures\Figure;

/**
 * The answer with the figure it is read from, and what the probe is.
 */
final readonly class ProbePage
{
    /**
     * @param  list<string>  $accounts that sent something in the last weeks
     * @param  string|null  $text of the statement that is asked about
     * @param  float|null  $meanUs a run of the probe
     */
    public function __construct(
        public SystemAnswer $answer,
        public ?Figure $figure,
        public ?Probe $probe,
        public array $accounts,
        public ?string $text,
        public ?float $meanUs,
        public ?string $setBy,
    ) {
    }

    /** Time in flight a day the probe costs; null where that is not known. */
    public function dailyUs(): ?float
    {
        return $this->probe === null || $this->meanUs === null ? null : $this->meanUs * 86_400 / $this->probe->everySeconds;
    }
}
