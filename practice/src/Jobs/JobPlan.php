<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Jobs;

/**
 * A job as the practice cluster runs it night by night.
 */
final readonly class JobPlan
{
    /**
     * @param  list<StagePlan>  $stages
     * @param  array<string, float>  $slower stages that take this many times as long, as with a bad plan
     * @param  array<int, float>  $slowHosts hosts of which tasks take this many times as long
     */
    public function __construct(
        public string $name,
        public string $script,
        public array $stages,
        public float $startUpMs = 25_000.0,
        public float $overheadMs = 90.0,
        /** Standard deviation of the logarithm of the luck of a task. */
        public float $noise = 0.1,
        /** Share of tasks that take about three times as long for no reason. */
        public float $stragglers = 0.002,
        /** Chance that an attempt fails. */
        public float $failures = 0.004,
        public int $hosts = 12,
        public array $slower = [],
        public array $slowHosts = [],
    ) {
    }

    public function tasks(): int
    {
        return array_sum(array_map(static fn (StagePlan $stage): int => $stage->tasks, $this->stages));
    }

    /**
     * @return array<string, mixed>
     */
    public function toArray(): array
    {
        return ['stages' => array_map(static fn (StagePlan $stage): array => $stage->toArray(), $this->stages)] + get_object_vars($this);
    }

    /**
     * @param  array<string, mixed>  $plan
     */
    public static function fromArray(array $plan): self
    {
        $plan['stages'] = array_map(StagePlan::fromArray(...), (array) $plan['stages']);

        return new self(...$plan);
    }
}
