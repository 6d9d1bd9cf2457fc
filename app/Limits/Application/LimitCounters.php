<?php

declare(strict_types=1);

namespace App\Limits\Application;

use App\Platform\Support\Clock;
use Fulcrion\Core\Usage\Calendar;
use Illuminate\Support\Facades\DB;

/**
 * What is used up of limits, exact however many processes count at once: each decision is one conditional update of one row, so none
 * is made on a count that is out of date.
 */
final readonly class LimitCounters
{
    /** A transaction another one got in the way of is tried so often. */
    private const TRIES = 10;

    private const TAKE = 'UPDATE limit_counters c JOIN limits l ON l.id = c.limit_id SET c.reserved = c.reserved + ?, '
        ."c.running = c.running + 1 WHERE c.limit_id = ? AND c.from_at = ? AND (l.state <> 'on' OR l.holds_at IS NULL "
        .'OR l.lifted_until_us > ? OR c.settled + c.apart + c.reserved < l.holds_at)';

    private const RELEASE = 'UPDATE limit_counters SET reserved = GREATEST(reserved, ?) - ?, running = GREATEST(running, 1) - 1 '
        .'WHERE limit_id = ? AND from_at = ?';

    public function __construct(private LimitFacts $facts, private Calendar $calendar)
    {
    }

    /** First day of the period a moment lies in. */
    public function period(KeptLimit $limit, int $at): int
    {
        return $limit->limit->period->days($this->calendar->day($at))->from;
    }

    /**
     * Reserves what a statement is expected to use of each limit, of all of them or of none.
     *
     * @param  list<array{KeptLimit, int}>  $wanted limit and amount, in the order of their numbers
     * @return KeptLimit|null the limit that has no room; null where it is let in
     */
    public function reserve(string $token, array $wanted, int $at, int $mostSeconds): ?KeptLimit
    {
        $periods = [];
        foreach ($wanted as [$limit]) {
            $periods[$limit->id] = $this->period($limit, $at);
        }
        $reached = null;
        $take = function () use ($token, $wanted, $periods, $at, $mostSeconds, &$reached): void {
            $reached = null;
            $rows = [];
            foreach ($wanted as [$limit, $amount]) {
                // Whether there is room is asked of the rows as they are now, the limit's own included: it may just have been changed.
                if (DB::update(self::TAKE, [$amount, $limit->id, $periods[$limit->id], $at * 1_000_000]) !== 1) {
                    $reached = $limit;
                    throw new LimitReached();
                }
                $rows[] = [
                    'token' => $token, 'limit_id' => $limit->id, 'from_at' => $periods[$limit->id], 'amount' => $amount,
                    'expires_us' => ($at + $mostSeconds) * 1_000_000,
                ];
            }
            DB::table('limit_runs')->insert($rows);
        };
        // A period nobody has counted in yet is begun outside of the transaction, so that no two of those who do wait for each other.
        for ($try = 0; $try < self::TRIES; $try++) {
            try {
                DB::transaction($take, self::TRIES);

                return null;
            } catch (LimitReached) {
                if ($reached === null || $this->isReached($reached, $periods[$reached->id])) {
                    break;
                }
            }
        }

        return $reached;
    }

    /** Whether there is no room, or the row was only not there yet, since nobody or somebody else just began to count the period. */
    private function isReached(KeptLimit $limit, int $period): bool
    {
        $this->begin($limit, $period);
        $row = DB::selectOne('SELECT c.settled + c.apart + c.reserved >= l.holds_at AS reached FROM limit_counters c JOIN limits l '
            .'ON l.id = c.limit_id WHERE c.limit_id = ? AND c.from_at = ?', [$limit->id, $period]);

        return $row !== null && (int) $row->reached === 1;
    }

    /** Begins to count a period, with what was used in it before; nothing where that was done. */
    private function begin(KeptLimit $limit, int $period): void
    {
        if (DB::table('limit_counters')->where('limit_id', $limit->id)->where('from_at', $period)->doesntExist()) {
            DB::table('limit_counters')->insertOrIgnore([
                'limit_id' => $limit->id, 'from_at' => $period,
                'settled' => $this->facts->used($limit->limit, $period, $limit->currency),
            ]);
        }
    }

    /**
     * Counts what a statement really used, and gives back what was reserved for it.
     *
     * @param  list<array{KeptLimit, int}>  $wanted what was reserved
     * @param  list<array{KeptLimit, int}>  $used limit and amount, in the order of their numbers
     * @param  bool  $isKept whether it will be among the facts of usage too
     * @param  int  $at when it was let in
     * @return list<array{KeptLimit, int, int, int}> limit, period, and what was used of it before and after
     */
    public function settle(string $token, array $wanted, array $used, bool $isKept, int $at): array
    {
        $column = $isKept ? 'settled' : 'apart';
        $held = $counted = [];
        foreach ($wanted as $one) {
            $held[$one[0]->id] = $one;
        }
        foreach ($used as [$limit]) {
            if (! isset($held[$limit->id])) {
                $this->begin($limit, $this->period($limit, $at));
            }
        }
        DB::transaction(function () use ($token, $used, $column, $at, $held, &$counted): void {
            $counted = [];
            // In the order all take them, so that no two wait for each other.
            foreach ($used as [$limit, $amount]) {
                $period = $this->period($limit, $at);
                $reserved = isset($held[$limit->id]) && self::isMine($token, $limit->id) ? $held[$limit->id][1] : null;
                unset($held[$limit->id]);
                $running = $reserved === null ? 0 : 1;
                $sql = "UPDATE limit_counters SET {$column} = {$column} + ?, reserved = GREATEST(reserved, ?) - ?, "
                    .'running = GREATEST(running, ?) - ? WHERE limit_id = ? AND from_at = ?';
                DB::update($sql, [$amount, $reserved ?? 0, $reserved ?? 0, $running, $running, $limit->id, $period]);
                $after = $this->used($limit, $period);
                $counted[] = [$limit, $period, $after - $amount, $after];
            }
            foreach ($held as $id => [$limit, $amount]) {
                if (self::isMine($token, $id)) {
                    self::release($id, $this->period($limit, $at), $amount);
                }
            }
        }, self::TRIES);

        return $counted;
    }

    /** Whether a reservation is still there, and this process gives it back. */
    private static function isMine(string $token, int $limit): bool
    {
        return DB::delete('DELETE FROM limit_runs WHERE token = ? AND limit_id = ?', [$token, $limit]) === 1;
    }

    /** Used so far in a period, what is only reserved not counted. */
    public function used(KeptLimit $limit, int $period): int
    {
        $sql = 'SELECT settled + apart AS used FROM limit_counters WHERE limit_id = ? AND from_at = ?';
        $row = DB::selectOne($sql, [$limit->id, $period]);

        return $row === null ? 0 : (int) $row->used;
    }

    /**
     * @return array{int, int} expected of statements that run now, and how many they are
     */
    public function running(KeptLimit $limit, int $period): array
    {
        $row = DB::table('limit_counters')->where('limit_id', $limit->id)->where('from_at', $period)->first();

        return $row === null ? [0, 0] : [(int) $row->reserved, (int) $row->running];
    }

    /**
     * Takes up what was used elsewhere. Use only grows in a period, so the larger of both counts is right: what has run from here is
     * counted at once and among the facts a little later.
     *
     * @return array{int, int} period, and what was used of it
     */
    public function sync(KeptLimit $limit, int $at): array
    {
        $period = $this->period($limit, $at);
        $this->begin($limit, $period);
        $sql = 'UPDATE limit_counters SET settled = GREATEST(settled, ?) WHERE limit_id = ? AND from_at = ?';
        DB::update($sql, [$this->facts->used($limit->limit, $period, $limit->currency), $limit->id, $period]);

        return [$period, $this->used($limit, $period)];
    }

    /** Gives back what was reserved for statements whose process has died. */
    public function sweep(): int
    {
        $swept = 0;
        foreach (DB::select('SELECT * FROM limit_runs WHERE expires_us < ?', [Clock::microseconds()]) as $row) {
            DB::transaction(static function () use ($row, &$swept): void {
                if (self::isMine((string) $row->token, (int) $row->limit_id)) {
                    self::release((int) $row->limit_id, (int) $row->from_at, (int) $row->amount);
                    $swept++;
                }
            }, self::TRIES);
        }

        return $swept;
    }

    private static function release(int $limit, int $period, int $amount): void
    {
        DB::update(self::RELEASE, [$amount, $amount, $limit, $period]);
    }
}
