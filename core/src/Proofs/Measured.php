<?php

declare(strict_types=1);

namespace Fulcrion\Core\Proofs;

use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanTotals;

/**
 * What one statement did when it was run, cold and warm. Bytes are those of the modelled cluster.
 *
 * @phpstan-type MeasuredArray array{bytesRead: int, chunksRead: int, bytesSent: int, modelledUs: int|null, coldUs: int, warmUs: int,
 *     worstEstimate: float|int, rows: int, digest: string|null, error: string, isWrite?: bool}
 */
final readonly class Measured
{
    public function __construct(
        public int $bytesRead,
        public int $chunksRead,
        public int $bytesSent,
        /** Null where the engine measures by itself. */
        public ?int $modelledUs,
        public int $coldUs,
        public int $warmUs,
        /** Factor by which the worst estimate of the plan was off. */
        public float $worstEstimate,
        public int $rows,
        /** Null when the rows were too many to compare. */
        public ?string $digest,
        /** Why it could not be run; empty when it ran. */
        public string $error = '',
        /** The rows themselves, while a proof is made; they are not part of what is kept. */
        public ?Answer $answer = null,
        /** Whether it wrote: it ran on a copy then, and its times are measured only. */
        public bool $isWrite = false,
    ) {
    }

    public static function of(Plan $plan, int $coldUs, int $warmUs, int $rows, ?string $digest, ?Answer $answer = null): self
    {
        [$chunks, $sent, $worst] = [0, 0, 1.0];
        foreach ($plan->steps() as $step) {
            $chunks += $step->reads->chunks ?? 0;
            $sent += $step->cost->bytesSent ?? 0;
            $worst = max($worst, $step->errorFactor() ?? 1.0);
        }
        $totals = PlanTotals::of($plan);

        return new self(
            $totals->bytesScanned,
            $chunks,
            $sent * $plan->rowFactor,
            $plan->modelled ? $totals->durationUs : null,
            $coldUs,
            $warmUs,
            $worst,
            $rows,
            $digest,
            '',
            $answer,
        );
    }

    /**
     * A write that was run several times on a copy.
     *
     * @param  non-empty-list<int>  $timesUs first the one for which nothing was in memory
     * @param  int  $rows that one run wrote
     */
    public static function wrote(array $timesUs, int $rows): self
    {
        // The least of them is what the write takes; the others waited for something else besides.
        $leastUs = count($timesUs) > 1 ? min(array_slice($timesUs, 1)) : $timesUs[0];

        return new self(0, 0, 0, null, $timesUs[0], $leastUs, 1.0, $rows, "{$rows} written", '', null, true);
    }

    public static function failed(string $error): self
    {
        return new self(0, 0, 0, null, 0, 0, 1.0, 0, null, $error);
    }

    /** The same run with the answer another run gave. */
    public function answering(self $other): self
    {
        return new self(
            $this->bytesRead,
            $this->chunksRead,
            $this->bytesSent,
            $this->modelledUs,
            $this->coldUs,
            $this->warmUs,
            $this->worstEstimate,
            $other->rows,
            $other->digest,
            $this->error !== '' ? $this->error : $other->error,
            $other->answer,
            $this->isWrite,
        );
    }

    /** The time that is compared: modelled where there is a model, warm otherwise. */
    public function us(): int
    {
        return $this->modelledUs ?? $this->warmUs;
    }

    /**
     * @return MeasuredArray
     */
    public function toArray(): array
    {
        /** @var MeasuredArray $values */
        $values = array_diff_key(get_object_vars($this), ['answer' => true]);

        return $values;
    }

    /**
     * @param  MeasuredArray  $values
     */
    public static function fromArray(array $values): self
    {
        return new self(
            $values['bytesRead'],
            $values['chunksRead'],
            $values['bytesSent'],
            $values['modelledUs'],
            $values['coldUs'],
            $values['warmUs'],
            (float) $values['worstEstimate'],
            $values['rows'],
            $values['digest'],
            $values['error'],
            null,
            $values['isWrite'] ?? false,
        );
    }
}
