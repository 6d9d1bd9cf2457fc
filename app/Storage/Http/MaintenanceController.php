<?php

declare(strict_types=1);

namespace App\Storage\Http;

use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Ledger;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Storage\Application\Maintenance;
use App\Storage\Http\Requests\SaveMaintenancePlanRequest;
use App\Storage\Models\MaintenancePlan;
use Cron\CronExpression;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;
use Illuminate\Validation\ValidationException;

final readonly class MaintenanceController
{
    public function __construct(private Ledger $ledger)
    {
    }

    public function index(): View
    {
        return view('storage.layout-maintenance', [
            'plans' => MaintenancePlan::query()->with('cluster')->orderBy('cluster_id')->orderBy('object')->get(),
            'runs' => DB::table('maintenance_runs')
                ->join('maintenance_plans', 'maintenance_plans.id', '=', 'maintenance_runs.plan_id')
                ->orderByDesc('maintenance_runs.id')
                ->limit(100)
                ->get(['maintenance_runs.*', 'maintenance_plans.object']),
        ]);
    }

    public function store(SaveMaintenancePlanRequest $request, #[CurrentUser] User $user, string $slug, string $name): RedirectResponse
    {
        $cluster = Cluster::query()->where('slug', $slug)->firstOrFail();
        assert($cluster instanceof Cluster);
        $data = $request->validated();
        if ($data['when'] === 'cron' && ! CronExpression::isValidExpression((string) $data['cron'])) {
            throw ValidationException::withMessages([
                'cron' => 'This is no cron expression. It has five fields: minute, hour, day of month, month, weekday; 0 3 * * * is '
                    .'every night at three.',
            ]);
        }
        MaintenancePlan::query()->updateOrCreate(
            ['cluster_id' => $cluster->id, 'object' => $name],
            [
                'acts' => array_values($data['acts']),
                'cron' => $data['when'] === 'cron' ? $data['cron'] : null,
                'thresholds' => [
                    'small' => (float) $data['small'],
                    'depth' => (float) $data['depth'],
                    'changed' => (float) $data['changed'],
                ],
                'expire_days' => $data['expire_days'],
                'keep' => $data['keep'],
                'hours_from' => $data['hours_from'],
                'hours_to' => $data['hours_to'],
                'paused' => $request->boolean('paused'),
                'checked_us' => Clock::microseconds(),
                'made_by' => $user->name,
            ],
        );
        $this->ledger->record($user, 'set a maintenance schedule', $name, [
            'cluster' => $cluster->slug,
            'acts' => implode(', ', $data['acts']),
            'when' => $data['when'] === 'cron' ? (string) $data['cron'] : 'when needed',
        ]);

        return redirect(address('layout.show', [$slug, $name]).'#maintenance')->with('done', 'The maintenance schedule is kept.');
    }

    /** At once, whatever the schedule says; or dry, to see what would be done. */
    public function run(Request $request, #[CurrentUser] User $user, MaintenancePlan $plan, Maintenance $maintenance): RedirectResponse
    {
        $dry = $request->boolean('dry');
        try {
            $id = $maintenance->now($plan, $user->name, $dry);
        } catch (SourceError $error) {
            return redirect(address('maintenance.index'))->with('failed', $error->getMessage());
        }

        return redirect(address('maintenance.index')."#run-{$id}")->with(
            'done',
            $dry ? 'This is what would be done; nothing was written.' : 'Done; the log says what was rewritten.',
        );
    }

    public function remove(#[CurrentUser] User $user, MaintenancePlan $plan): RedirectResponse
    {
        $this->ledger->record($user, 'removed a maintenance schedule', $plan->object, ['cluster' => $plan->cluster->slug]);
        DB::table('maintenance_runs')->where('plan_id', $plan->id)->delete();
        $plan->delete();

        return redirect(address('maintenance.index'))->with('done', 'The schedule is removed; what it did stays done.');
    }
}
