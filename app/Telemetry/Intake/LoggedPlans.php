<?php

declare(strict_types=1);

namespace App\Telemetry\Intake;

use App\Telemetry\Store\PlanStore;
use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Telemetry\Execution;

/**
 * Plans a log tells beside its statements, one a shape. Their runs are not counted with them: a file that is read twice counts once, and of
 * plans nobody could tell.
 */
final class LoggedPlans
{
    private const MOST = 5_000;

    /** @var array<string, array{string, Plan, int, int}> statement, plan, first and last seen */
    private array $plans = [];

    public function __construct(private readonly PlanStore $store)
    {
    }

    public function add(string $statement, Plan $plan, Execution $execution): void
    {
        $key = "{$statement} {$plan->fingerprint()}";
        [$atUs, $known] = [$execution->startedAtUs, $this->plans[$key] ?? null];
        if ($known !== null || count($this->plans) < self::MOST) {
            $this->plans[$key] = [$statement, $plan, min($known[2] ?? $atUs, $atUs), max($known[3] ?? $atUs, $atUs)];
        }
    }

    public function keep(int $clusterId): void
    {
        foreach ($this->plans as [$statement, $plan, $firstUs, $lastUs]) {
            $this->store->keep($clusterId, $statement, $plan, $lastUs, firstUs: $firstUs);
        }
        $this->plans = [];
    }
}
