<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Demo;

use App\Alerts\Application\AlertJudge;
use App\Alerts\Models\Alert;
use App\Estate\Models\Cluster;
use App\Ledger\Models\Subscription;
use Fulcrion\Core\Alerts\ThresholdSide;
use Fulcrion\Core\Alerts\Watched;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\DB;

/**
 * Alerts of the demo world with what they rang in the last days, and the Mondays people remember.
 */
final readonly class DemoAlerts
{
    private const DAYS = 14;

    /** History is judged in spans of so long. */
    private const SPAN = 6 * 3_600;

    private const BUSY = [390 * 60, 540 * 60];

    /** Name, cluster, signal, what of it, threshold, calm value, minutes and whether it is urgent. */
    private const ALERTS = [
        ['Dashboards wait', 'fernhill', 'load:waiting', Watched::Value, 0.5, 0.25, 30, true],
        ['Probe far from idle', 'fernhill', 'probe:times', Watched::Value, 4.0, 2.0, 15, true],
        ['Processors busy', 'fernhill', 'host:processors', Watched::Value, 0.9, 0.8, 15, false],
        ['Host silent', 'fernhill', 'host:processors', Watched::Silence, 1_800.0, 1_800.0, 0, true],
        ['Host silent', 'wren', 'host:processors', Watched::Silence, 1_800.0, 1_800.0, 0, true],
        ['File systems fill up', 'own-store', 'host:disk-full', Watched::DaysLeft, 30.0, 33.0, 0, false],
    ];

    public function __construct(private AlertJudge $judge)
    {
    }

    public function write(int $now): void
    {
        if (DB::table('alerts')->exists()) {
            return;
        }
        $name = array_values(Team::PEOPLE)[0][0];
        foreach (self::ALERTS as [$title, $slug, $signal, $watched, $threshold, $calm, $minutes, $isUrgent]) {
            $cluster = Cluster::query()->where('slug', $slug)->first();
            if ($cluster !== null) {
                Alert::query()->create([
                    'cluster_id' => $cluster->id, 'name' => $title, 'signal' => $signal, 'host' => null, 'watched' => $watched,
                    'side' => $watched === Watched::DaysLeft ? ThresholdSide::Below : ThresholdSide::Above, 'threshold' => $threshold,
                    'calm' => $calm, 'for_seconds' => 60 * $minutes, 'calm_seconds' => 900, 'share' => null, 'is_urgent' => $isUrgent,
                    'is_on' => true, 'made_by' => $name,
                ]);
            }
        }
        $this->mark($now, $name);
        Subscription::query()->create(['kind' => 'mail', 'target' => 'on-call@brackenfold.example', 'hears' => 'incidents',
            'made_by' => $name]);
        for ($at = $now - self::DAYS * 86_400; $at < $now + self::SPAN; $at += self::SPAN) {
            Carbon::setTestNow(Carbon::createFromTimestamp(min($now, $at)));
            $this->judge->judge(min($now, $at));
        }
        Carbon::setTestNow();
    }

    private function mark(int $now, string $name): void
    {
        $fernhill = Cluster::query()->where('slug', 'fernhill')->value('id');
        for ($day = $now - $now % 86_400; $day > $now - 28 * 86_400; $day -= 86_400) {
            if ($fernhill !== null && gmdate('N', $day) === '1' && $day + self::BUSY[1] < $now) {
                DB::table('incident_marks')->insert(['cluster_id' => $fernhill, 'from_at' => $day + self::BUSY[0],
                    'to_at' => $day + self::BUSY[1], 'name' => 'dashboards waited', 'made_by' => $name]);
            }
        }
    }
}
