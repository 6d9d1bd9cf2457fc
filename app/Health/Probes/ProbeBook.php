<?php

declare(strict_types=1);

namespace App\Health\Probes;

use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use Fulcrion\Core\Health\ProbeRun;
use Illuminate\Contracts\Encryption\Encrypter;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * Probes and what their runs took.
 */
final readonly class ProbeBook
{
    private const LONGEST_ERROR = 500;

    private const AT_ONCE = 1_000;

    public function __construct(private Encrypter $encrypter)
    {
    }

    public function of(Cluster $cluster): ?Probe
    {
        $row = DB::table('probes')->where('cluster_id', $cluster->id)->first();

        return $row === null ? null : Probe::read($row, $this->encrypter);
    }

    /**
     * @return list<Probe>
     */
    public function all(): array
    {
        return array_values(DB::table('probes')->orderBy('id')->get()
            ->map(fn (stdClass $row): Probe => Probe::read($row, $this->encrypter))->all());
    }

    /** A cluster has one probe; another statement starts over, as its times say nothing of the one before. */
    public function set(Cluster $cluster, User $user, string $sql, string $schema, int $everySeconds): Probe
    {
        return DB::transaction(function () use ($cluster, $user, $sql, $schema, $everySeconds): Probe {
            $known = $this->of($cluster);
            $values = ['user_id' => $user->id, 'every_seconds' => $everySeconds, 'is_on' => true, 'last_error' => null];
            if ($known !== null && $known->sql === $sql && $known->schema === $schema) {
                DB::table('probes')->where('id', $known->id)->update($values);
            } else {
                DB::table('probes')->where('cluster_id', $cluster->id)->delete();
                DB::table('probes')->insert($values + [
                    'cluster_id' => $cluster->id, 'schema' => $schema, 'made_us' => Clock::microseconds(),
                    'sealed' => $this->encrypter->encrypt($sql, false),
                ]);
            }

            return $this->of($cluster) ?? throw new \LogicException('A probe that was just set is there.');
        });
    }

    public function switch(Probe $probe, bool $isOn): void
    {
        DB::table('probes')->where('id', $probe->id)->update(['is_on' => $isOn]);
    }

    public function remove(Probe $probe): void
    {
        DB::table('probes')->where('id', $probe->id)->delete();
    }

    public function last(Probe $probe): ?int
    {
        $last = DB::table('probe_runs')->where('probe_id', $probe->id)->max('at');

        return $last === null ? null : (int) $last;
    }

    /**
     * @return list<ProbeRun> oldest first
     */
    public function runs(Probe $probe, int $from, int $to): array
    {
        return array_values(DB::table('probe_runs')->where('probe_id', $probe->id)->where('at', '>=', $from)->where('at', '<', $to)
            ->orderBy('at')->get(['at', 'took_us', 'waited_us'])->map(static fn (stdClass $row): ProbeRun => new ProbeRun(
                (int) $row->at,
                $row->took_us === null ? null : (int) $row->took_us,
                (int) $row->waited_us,
            ))->all());
    }

    /**
     * @param  list<ProbeRun>  $runs
     * @param  string|null  $error why the last one failed; null where it did not
     */
    public function add(Probe $probe, array $runs, ?string $error = null): void
    {
        foreach (array_chunk($runs, self::AT_ONCE) as $some) {
            DB::table('probe_runs')->insertOrIgnore(array_map(static fn (ProbeRun $run): array => [
                'probe_id' => $probe->id, 'at' => $run->at, 'took_us' => $run->tookUs, 'waited_us' => $run->waitedUs,
            ], $some));
        }
        DB::table('probes')->where('id', $probe->id)->update([
            'last_error' => $error === null ? null : mb_substr($error, 0, self::LONGEST_ERROR),
        ]);
    }

    /** Forgets runs from before a moment. */
    public function prune(int $before): void
    {
        DB::table('probe_runs')->where('at', '<', $before)->delete();
    }
}
