<?php

declare(strict_types=1);

namespace App\Limits\Application;

use App\Estate\Connectors\SourceError;
use App\Estate\Limits\Admission;
use App\Estate\Limits\Sending;
use App\Estate\Limits\StatementGate;
use App\Platform\Support\Clock;
use App\Platform\Support\MomentStyle;
use Fulcrion\Core\Limits\LimitMeasure;
use Fulcrion\Core\Limits\LimitPeriod;
use Fulcrion\Core\Limits\RunMeter;
use Fulcrion\Core\Limits\StatementEstimate;
use Fulcrion\Core\Sql\Fingerprinter;
use Fulcrion\Core\Usage\Calendar;
use Illuminate\Support\Facades\DB;

/**
 * Holds statements whose limits leave no room for them, and counts those it lets in.
 */
final readonly class LimitGate implements StatementGate
{
    public function __construct(
        private LimitBook $book,
        private LimitCounters $counters,
        private LimitFacts $facts,
        private LimitActs $acts,
        private Calendar $calendar,
    ) {
    }

    public function admit(Sending $sending): Admission
    {
        $limits = $this->book->of($sending->sender);
        if ($limits === []) {
            // One may come into force before it ends.
            return $this->admission($sending, '', [], Clock::seconds(), []);
        }
        $at = Clock::seconds();
        $estimate = self::needsEstimate($limits) ? ($sending->estimate)() : null;
        $single = array_values(array_filter($limits, static fn (KeptLimit $one): bool => $one->limit->period === LimitPeriod::Statement
            && ! $one->isLifted($at * 1_000_000)));
        foreach ($single as $limit) {
            $this->hold($sending, $limit, $estimate?->of($limit->limit->measure), $at);
        }
        $wanted = [];
        foreach ($limits as $limit) {
            if ($limit->limit->period !== LimitPeriod::Statement) {
                $wanted[] = [$limit, $this->expected($limit, $estimate, $sending)];
            }
        }
        $token = bin2hex(random_bytes(16));
        $reached = $wanted === [] ? null : $this->counters->reserve($token, $wanted, $at, $sending->mostSeconds);
        if ($reached !== null) {
            $this->refuse($sending, $reached, $at, 'held');
            throw new SourceError($this->sentence($reached, $at), limit: $reached->id);
        }

        return $this->admission($sending, $token, $wanted, $at, $single);
    }

    /**
     * @param  list<array{KeptLimit, int}>  $wanted what is reserved of limits
     * @param  list<KeptLimit>  $single limits of a single statement
     */
    private function admission(Sending $sending, string $token, array $wanted, int $at, array $single): Admission
    {
        return new Admission(
            self::meter($single),
            fn (int $bytes, int $us) => $this->settle($sending, $token, $wanted, new StatementEstimate($bytes, $us), $at),
            function (LimitMeasure $measure) use ($sending, $single, $at): SourceError {
                foreach ($single as $limit) {
                    if ($limit->limit->measure === $measure) {
                        $this->refuse($sending, $limit, $at, 'stopped');

                        return new SourceError(
                            "Stopped by a limit: {$limit->title()}. {$this->whom($limit)}",
                            stopped: true,
                            limit: $limit->id,
                        );
                    }
                }

                return new SourceError('Stopped by a limit.', stopped: true);
            },
        );
    }

    /**
     * @param  list<array{KeptLimit, int}>  $wanted
     */
    private function settle(Sending $sending, string $token, array $wanted, StatementEstimate $actual, int $at): void
    {
        $used = [];
        foreach ($this->book->of($sending->sender) as $limit) {
            if ($limit->limit->period === LimitPeriod::Statement) {
                $this->acts->reach($limit, $this->counters->period($limit, $at), (int) $actual->of($limit->limit->measure));
            } else {
                $used[] = [$limit, $this->amount($limit, $actual, $sending)];
            }
        }
        if ($used === [] && $wanted === []) {
            return;
        }
        foreach ($this->counters->settle($token, $wanted, $used, $sending->isKept, $at) as [$limit, $period, $before, $after]) {
            if (count($limit->limit->reached($after)) > count($limit->limit->reached($before))) {
                $this->acts->reach($limit, $period, $after);
            }
        }
    }

    /** Refuses what would pass a limit of a single statement. */
    private function hold(Sending $sending, KeptLimit $limit, ?int $expected, int $at): void
    {
        $holdsAt = $limit->limit->holdsAt();
        if ($holdsAt === null || $expected === null || $expected <= $holdsAt) {
            return;
        }
        $this->refuse($sending, $limit, $at, 'estimate');
        // What a table holds that is seen in part only is not told.
        $would = $sending->isVeiled ? 'more than that' : 'up to '.$limit->amount($expected);
        $does = $limit->limit->measure === LimitMeasure::Bytes ? 'would read' : 'would take, for its reading alone,';
        throw new SourceError(
            "Not run because of a limit: {$limit->title()}. It {$does} {$would}, by its plan. Filter earlier, or read fewer columns. "
                .$this->whom($limit),
            limit: $limit->id,
        );
    }

    private function sentence(KeptLimit $limit, int $at): string
    {
        $period = $this->counters->period($limit, $at);
        $used = $this->counters->used($limit, $period);
        [$reserved, $running] = $this->counters->running($limit, $period);
        $days = $limit->limit->period->days($period);
        $more = $used < (int) $limit->limit->holdsAt() && $running > 0
            ? ', and '.$limit->amount($reserved).' are expected of '.($running === 1 ? '1 statement' : "{$running} statements").
                ' running now'
            : '';

        $holdsAt = (int) $limit->limit->holdsAt();
        $from = $holdsAt === $limit->limit->amount ? '' : " It holds from {$limit->amount($holdsAt)} on.";

        $until = onClocks($this->calendar->begin($days->to), MomentStyle::Minute);

        return "Held by a limit: {$limit->title()}.{$from} {$limit->amount($used)} ".($used === 1 ? 'is' : 'are')." used{$more}. "
            ."It holds until {$until}. {$this->whom($limit)}";
    }

    private function whom(KeptLimit $limit): string
    {
        return 'Ask '.($limit->ask === '' ? $limit->madeBy : $limit->ask).'; an owner can lift it.';
    }

    private function refuse(Sending $sending, KeptLimit $limit, int $at, string $how): void
    {
        DB::table('limit_refusals')->insert([
            'limit_id' => $limit->id,
            'from_at' => $this->counters->period($limit, $at),
            'at_us' => Clock::microseconds(),
            'login' => mb_strcut($sending->sender->login, 0, 190),
            'application' => mb_strcut($sending->sender->application, 0, 190),
            'cluster_id' => $sending->cluster->id,
            'fingerprint' => $sending->sql === '' ? '' : (new Fingerprinter($sending->cluster->dialect))->of($sending->sql)->id,
            'how' => $how,
        ]);
    }

    /**
     * @param  list<KeptLimit>  $limits
     */
    private static function needsEstimate(array $limits): bool
    {
        return array_filter($limits, static fn (KeptLimit $one): bool => $one->limit->measure !== LimitMeasure::Executions) !== [];
    }

    /** What is reserved; nothing where it is not known beforehand. */
    private function expected(KeptLimit $limit, ?StatementEstimate $estimate, Sending $sending): int
    {
        return $limit->limit->measure === LimitMeasure::Executions ? 1
            : ($estimate === null ? 0 : $this->amount($limit, $estimate, $sending));
    }

    private function amount(KeptLimit $limit, StatementEstimate $used, Sending $sending): int
    {
        return $used->of($limit->limit->measure) ?? $this->facts->cost($used->us, $sending->cluster->slug, $limit->currency);
    }

    /**
     * @param  list<KeptLimit>  $single
     */
    private static function meter(array $single): RunMeter
    {
        $most = [];
        foreach ($single as $limit) {
            $holdsAt = $limit->limit->holdsAt();
            if ($holdsAt !== null) {
                $most[$limit->limit->measure->value] = min($most[$limit->limit->measure->value] ?? PHP_INT_MAX, $holdsAt);
            }
        }

        return new RunMeter($most[LimitMeasure::Bytes->value] ?? null, $most[LimitMeasure::Time->value] ?? null);
    }
}
