<?php

declare(strict_types=1);

namespace App\Health\Probes;

use App\Estate\Models\Cluster;
use App\Health\Application\HostsBeside;
use App\Metrics\Store\HostReadings;
use App\Platform\Support\MomentStyle;
use DateTimeZone;
use Fulcrion\Core\Health\Complaint;
use Fulcrion\Core\Health\Outlier;
use Fulcrion\Core\Health\ProbeScale;
use Fulcrion\Core\Health\UsualRange;
use Fulcrion\Core\Health\Verdict;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Support\Facades\DB;

/**
 * Is it the system? Of a moment, and a statement or an account: the probe, what ran, what is usual and the hosts, and one reason.
 */
final readonly class SystemQuestion
{
    private const BEFORE = 300;

    private const AFTER = 300;

    /** Runs of before are looked at to know what is usual. */
    private const HISTORY = 35 * 86_400;

    /** Of a factor that is hardly one. */
    private const ABOUT = 1.05;

    private const USERS = 4;

    private const SLOWER = 5;

    /** Less is as usual. */
    private const MUCH = 1.5;

    /** A plan that is newer than this at the moment is another one. */
    private const NEW_PLAN_US = 7 * 86_400_000_000;

    public function __construct(private ProbeBook $probes, private UsualRuns $runs, private HostReadings $readings)
    {
    }

    /**
     * @param  string|null  $fingerprint of a statement
     * @param  string|null  $user an account
     */
    public function ask(Cluster $cluster, int $at, ?string $fingerprint, ?string $user, DateTimeZone $zone): SystemAnswer
    {
        [$from, $to] = [$at - self::BEFORE, $at + self::AFTER];
        $probe = $this->probes->of($cluster);
        $scale = $probe === null ? null : ProbeScale::of($this->probes->runs($probe, $at - self::HISTORY, $to), $zone);
        $found = $scale?->middle($from, $to);
        $usual = $scale?->usual($at);
        $slow = HostsBeside::slow($cluster, $at + 3_600, $this->readings);
        $statement = $fingerprint === null ? null : (int) DB::table('statements')->where('fingerprint', $fingerprint)->value('id');
        $facts = $this->runs->around($cluster, $from, $to, $user, $statement);
        $known = $this->runs->usual($cluster, array_keys($facts), $at);
        $slower = self::slower($facts, $known);
        $subject = $fingerprint !== null ? $statement : ($user !== null ? array_key_first($slower) ?? array_key_first($facts) : null);
        $own = $subject === null ? null : $facts[$subject] ?? null;
        $its = $subject === null ? null : $known[$subject] ?? null;
        $complaint = self::complaint(
            $own,
            $its,
            $this->runs->waiting($cluster, $from, $to),
            $found[0] ?? null,
            $slow[0][0] ?? null,
            $subject !== null && $this->hasOtherPlan($cluster, $subject, $at),
        );
        $asked = $fingerprint !== null || $user !== null;
        $verdict = $asked && ($own === null || $its === null) ? Verdict::Unknown : $complaint->verdict();
        $texts = $this->texts([...array_slice(array_keys($slower), 0, self::SLOWER), ...$subject === null ? [] : [$subject]]);
        $users = $this->runs->users($cluster, $from, $to, self::USERS);

        return new SystemAnswer(
            $at,
            $verdict,
            self::sentence($verdict, $complaint, $own, $its, $slow, $users, $asked),
            $complaint,
            self::evidence($own, $its, $found, $usual, $slow, $complaint, $zone),
            $fingerprint ?? ($subject === null ? null : $texts[$subject][0] ?? null),
            $users,
            array_map(static fn (int $one): array => [...$texts[$one], $facts[$one], $known[$one]],
                array_slice(array_keys($slower), 0, self::SLOWER)),
            $scale,
            $usual,
        );
    }

    private static function complaint(
        ?StatementFacts $own,
        ?StatementFacts $its,
        ?float $waiting,
        ?float $probe,
        ?Outlier $host,
        bool $hasOtherPlan,
    ): Complaint {
        if ($own === null || $its === null) {
            return new Complaint(waited: $waiting, probe: $probe, host: $host?->factor);
        }

        return new Complaint(
            self::times($own->tookUs, $its->tookUs),
            self::times($own->ranUs(), $its->ranUs()),
            $own->tookUs > 0 ? $own->waitedUs / $own->tookUs : null,
            $own->tookUs > 0 ? $own->lockedUs / $own->tookUs : null,
            $its->bytesRead > 0 ? self::times($own->bytesRead, $its->bytesRead) : self::times($own->rowsRead, $its->rowsRead),
            $hasOtherPlan,
            $probe,
            $host?->factor,
        );
    }

    private static function times(float $now, float $usual): ?float
    {
        return $usual > 0.0 ? $now / $usual : null;
    }

    /**
     * @param  array<int, StatementFacts>  $facts
     * @param  array<int, StatementFacts>  $known
     * @return array<int, float> microseconds more than usual in all, by statement that took much longer, most first
     */
    private static function slower(array $facts, array $known): array
    {
        $slower = [];
        foreach (array_intersect_key($facts, $known) as $statement => $one) {
            if ($one->tookUs >= self::MUCH * $known[$statement]->tookUs) {
                $slower[$statement] = ($one->tookUs - $known[$statement]->tookUs) * $one->executions;
            }
        }
        arsort($slower);

        return $slower;
    }

    private function hasOtherPlan(Cluster $cluster, int $statement, int $at): bool
    {
        $first = DB::table('plans')->where('cluster_id', $cluster->id)->where('first_us', '<=', ($at + self::AFTER) * 1_000_000)
            ->where('statement', DB::table('statements')->where('id', $statement)->select('fingerprint')->limit(1))
            ->orderByDesc('first_us')->limit(2)->pluck('first_us');

        return count($first) === 2 && (int) $first[0] >= $at * 1_000_000 - self::NEW_PLAN_US;
    }

    /**
     * @param  list<int>  $statements
     * @return array<int, array{string, string}> fingerprint and text
     */
    private function texts(array $statements): array
    {
        $texts = [];
        foreach (DB::table('statements')->whereIn('id', $statements)->get(['id', 'fingerprint', 'text']) as $row) {
            $texts[(int) $row->id] = [(string) $row->fingerprint, (string) $row->text];
        }

        return $texts;
    }

    /**
     * @param  list<array{Outlier, int|null}>  $slow
     * @param  array<string, float>  $users
     */
    private static function sentence(
        Verdict $verdict,
        Complaint $complaint,
        ?StatementFacts $own,
        ?StatementFacts $its,
        array $slow,
        array $users,
        bool $asked,
    ): string {
        $steady = $complaint->probe === null ? '' : ', and the probe was steady';
        $times = static fn (?float $factor): string => Quantity::digits($factor ?? 1.0).' times';
        $most = array_key_first($users);

        return match ($verdict) {
            Verdict::System => 'It is the system: the probe took '.$times($complaint->probe).' its idle time'
                .($most === null ? '' : ", while {$most} had most at work"),
            Verdict::Queue => $own === null ? 'It is a queue: '.Quantity::percent($complaint->waited).' of the time in flight was waiting'
                : 'It waited in a queue for '.Quantity::percent($complaint->waited).' of its time'.$steady,
            Verdict::Lock => 'It waited for locks for '.Quantity::percent($complaint->locked).' of its time'.$steady,
            Verdict::Host => "It is one host: the disks of {$slow[0][0]->host} take ".$times($slow[0][0]->factor).' as long as its '
                .'neighbours\' for the same'.$steady,
            Verdict::Statement => 'It is this statement: '.match (true) {
                $complaint->read !== null && $complaint->read >= self::MUCH => 'it read '.$times($complaint->read).' as much as usual',
                $complaint->hasOtherPlan => 'it has another plan and took '.$times($complaint->took).' as long as usual',
                default => 'it took '.$times($complaint->took).' as long as usual for the same work',
            }.$steady,
            Verdict::Nothing => $own === null ? 'The system was fine: the probe took '.($complaint->probe < self::ABOUT ? 'about'
                : $times($complaint->probe)).' its idle time'
                : 'Nothing was wrong: it took '.Quantity::duration($own->tookUs).', and '.Quantity::duration($its->tookUs ?? 0.0)
                    .' is usual',
            Verdict::Unknown => match (true) {
                $asked && $own === null => 'Nothing of it began within five minutes of that moment',
                $asked => 'It has run on too few days before to say what is usual for it',
                default => 'Nobody knows: no probe ran within five minutes of that moment',
            },
        };
    }

    /**
     * @param  array{float, int}|null  $found
     * @param  list<array{Outlier, int|null}>  $slow
     * @return list<array{string, string}>
     */
    private static function evidence(
        ?StatementFacts $own,
        ?StatementFacts $its,
        ?array $found,
        ?UsualRange $usual,
        array $slow,
        Complaint $complaint,
        DateTimeZone $zone,
    ): array {
        $rows = [['probe, times its idle time', $found === null ? 'no run within five minutes'
            : Quantity::digits($found[0]).", of {$found[1]} ".($found[1] === 1 ? 'run' : 'runs')]];
        if ($usual !== null) {
            $rows[] = [$usual->isWeekly ? 'usual at this hour of the week' : 'usual at this hour of the day', Quantity::digits($usual->low).
                ' to '.Quantity::digits($usual->high).", of {$usual->runs} runs"];
        }
        if ($own !== null) {
            $beside = static fn (float $now, ?float $before, string $shown, ?string $then): string => $shown.
                ($before === null || $then === null ? '' : "; {$then} is usual".($before > 0 && $now / $before >= self::MUCH
                    ? ', '.Quantity::digits($now / $before).' times as much' : ''));
            $rows[] = ['runs that began', (string) $own->executions];
            $rows[] = ['took, each', $beside($own->tookUs, $its?->tookUs, Quantity::duration($own->tookUs), $its === null ? null
                : Quantity::duration($its->tookUs))];
            $rows[] = ['of it waited in a queue', Quantity::duration($own->waitedUs)];
            if ($own->lockedUs > 0) {
                $rows[] = ['of it waited for locks', Quantity::duration($own->lockedUs)];
            }
            if ($own->bytesRead > 0) {
                $rows[] = ['read, each', $beside($own->bytesRead, $its?->bytesRead, Quantity::bytes($own->bytesRead), $its === null ? null
                    : Quantity::bytes($its->bytesRead))];
            } elseif ($own->rowsRead > 0) {
                $rows[] = ['rows examined, each', $beside($own->rowsRead, $its?->rowsRead, Quantity::count((int) $own->rowsRead),
                    $its === null ? null : Quantity::count((int) $its->rowsRead))];
            }
            $rows[] = ['plan', $complaint->hasOtherPlan ? 'another one than a week before' : 'no change is known'];
        } elseif ($complaint->waited !== null) {
            $rows[] = ['of all time in flight, waiting in queues', Quantity::percent($complaint->waited)];
        }
        foreach ($slow as [$one, $since]) {
            $rows[] = ["disks of {$one->host}", Quantity::digits($one->factor).' times as long as its neighbours\' for the same'
                .($since === null ? '' : ', since '.moment($since * 1_000_000, MomentStyle::Minute, $zone))];
        }

        return $rows;
    }
}
