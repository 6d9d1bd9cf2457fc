<?php

declare(strict_types=1);

namespace App\Limits\Application;

use App\Platform\Support\MomentStyle;
use Fulcrion\Core\Limits\LimitPeriod;
use Fulcrion\Core\Usage\Calendar;
use Illuminate\Support\Facades\DB;

/**
 * How a limit stands in the present period.
 */
final readonly class LimitRow
{
    private function __construct(
        public KeptLimit $limit,
        /** Null where it counts single statements, or counts nothing. */
        public ?int $used,
        public int $held,
        public bool $isHolding,
        public bool $isLifted,
        public int $untilAt,
    ) {
    }

    public static function of(KeptLimit $limit, LimitCounters $counters, Calendar $calendar, int $now): self
    {
        $period = $counters->period($limit, $now);
        $isCounted = $limit->state === LimitState::On && $limit->limit->period !== LimitPeriod::Statement;
        $used = $isCounted ? $counters->used($limit, $period) : null;
        $holdsAt = $limit->limit->holdsAt();
        $isLifted = $limit->isLifted($now * 1_000_000);

        return new self(
            $limit,
            $used,
            DB::table('limit_refusals')->where('limit_id', $limit->id)->where('from_at', '>=', $period)->count(),
            $used !== null && $holdsAt !== null && $used >= $holdsAt && ! $isLifted,
            $isLifted,
            $calendar->begin($limit->limit->period->days($period)->to),
        );
    }

    public function share(): ?float
    {
        return $this->used === null ? null : $this->used / $this->limit->limit->amount;
    }

    public function mark(): string
    {
        return match (true) {
            $this->limit->state !== LimitState::On => 'no data',
            $this->isHolding => 'act',
            $this->isLifted, $this->limit->limit->reached($this->used ?? 0) !== [] => 'watch',
            default => 'calm',
        };
    }

    public function standing(): string
    {
        return match (true) {
            $this->limit->state !== LimitState::On => $this->limit->state->label(),
            $this->isLifted => 'lifted until '.moment($this->limit->liftedUntilUs, MomentStyle::Minute),
            $this->isHolding => 'holds until '.onClocks($this->untilAt, MomentStyle::Minute),
            default => $this->limit->state->label(),
        };
    }

    /**
     * @param  list<self>  $rows
     */
    public static function sentence(array $rows): string
    {
        $on = array_values(array_filter($rows, static fn (self $one): bool => $one->limit->state === LimitState::On));
        $holding = array_values(array_filter($on, static fn (self $one): bool => $one->isHolding));
        $count = count($on);

        return match (true) {
            $rows === [] => 'No limit is set: nothing stops',
            $on === [] => 'No limit is in force: nothing stops',
            $holding !== [] => count($holding)." of {$count} ".($count === 1 ? 'limit' : 'limits').' '.
                (count($holding) === 1 ? 'holds' : 'hold')." statements: {$holding[0]->limit->whose()}",
            default => $count === 1 ? 'The one limit in force has room' : "All {$count} limits in force have room",
        };
    }
}
