<?php

declare(strict_types=1);

namespace App\Overview\Application;

use App\Estate\Models\Cluster;
use App\Ledger\Changes\ChangeState;
use App\Ledger\Findings\WeightUnit;
use App\Ledger\Models\Change;
use App\Ledger\Models\Finding;
use App\Ledger\Models\ProofRecord;

/**
 * What is known of one object while it is added up, in microseconds a week in flight.
 */
final class ObjectGain
{
    public float $provenUs = 0.0;

    public ?int $brokenUs = null;

    /** @var list<Finding> whose weight is not time in flight */
    public array $otherwise = [];

    /** @var array<string, float> by statement the most a finding says it costs */
    private array $byStatement = [];

    /** @var array<string, float> by statement the most a rehearsed change saves of it */
    private array $rehearsed = [];

    /** Of findings, beyond what they say of single statements. */
    private float $restUs = 0.0;

    private ?Finding $heaviest = null;

    /** @var array{rehearsed: string, proven: string, broken: string} */
    private array $links = ['rehearsed' => '', 'proven' => '', 'broken' => ''];

    public function __construct(public readonly Cluster $cluster, public readonly string $name)
    {
    }

    /**
     * Two findings that cost the same statement its time do not cost it twice.
     *
     * @param  array<string, float>  $byStatement microseconds a week by fingerprint
     * @param  float  $share of its weight that no other finding explains
     */
    public function found(Finding $finding, array $byStatement, float $share): void
    {
        if ($this->heaviest === null || $finding->weight > $this->heaviest->weight) {
            $this->heaviest = $finding;
        }
        if ($finding->weight_unit !== WeightUnit::QueryTime) {
            array_push($this->otherwise, ...$finding->weight > 0 ? [$finding] : []);

            return;
        }
        $statement = $finding->subject()->statement;
        if ($byStatement === [] && $statement !== null) {
            $byStatement = [$statement => $finding->weight * $share];
        }
        foreach ($byStatement as $fingerprint => $us) {
            $this->byStatement[$fingerprint] = max($this->byStatement[$fingerprint] ?? 0.0, $us);
        }
        $this->restUs = max($this->restUs, $finding->weight * $share - array_sum($byStatement));
    }

    /** Whether it weighs something in any unit, or a change promised something. */
    public function isWeighed(): bool
    {
        return $this->queryUs() + $this->rehearsedUs() + $this->provenUs > 0 || $this->otherwise !== [] || $this->brokenUs !== null;
    }

    public function queryUs(): float
    {
        return $this->restUs + array_sum($this->byStatement);
    }

    /**
     * Changes that are rehearsed may be for the same statements: only one saves their time. Those that are applied were measured one
     * after another.
     *
     * @param  array<string, float>  $byStatement microseconds a week by fingerprint
     */
    public function promised(Change $change, ProofRecord $proof, array $byStatement): void
    {
        if ($change->state === ChangeState::Applied) {
            $this->provenUs += max(0.0, array_sum($byStatement));
            $this->links['proven'] = address('proof.show', $proof->id);

            return;
        }
        foreach ($byStatement as $fingerprint => $us) {
            $this->rehearsed[$fingerprint] = max($this->rehearsed[$fingerprint] ?? $us, $us);
        }
        $this->links['rehearsed'] = address('change.show', $change->id);
    }

    public function rehearsedUs(): float
    {
        return max(0.0, array_sum($this->rehearsed));
    }

    public function broke(Change $change, ?int $atUs): void
    {
        if ($atUs !== null && $atUs > ($this->brokenUs ?? 0)) {
            $this->brokenUs = $atUs;
            $this->links['broken'] = address('change.show', $change->id);
        }
    }

    /**
     * @return array{possible: string, rehearsed: string, proven: string, broken: string}
     */
    public function links(): array
    {
        return ['possible' => $this->heaviest === null ? '' : address('finding.show', $this->heaviest->id)] + $this->links;
    }
}
