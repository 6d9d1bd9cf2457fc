<?php

declare(strict_types=1);

namespace App\Usage\Http;

use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use App\Platform\Support\Export;
use App\Telemetry\Usage\TableUsage;
use App\Telemetry\Usage\UsageField;
use App\Telemetry\Usage\UsageReader;
use App\Telemetry\Usage\UsageScope;
use App\Usage\Application\UsagePage;
use App\Usage\Application\WhyPage;
use Fulcrion\Core\Usage\UsageBridge;
use Fulcrion\Core\Usage\UsageChange;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;

/**
 * Who used how much, and why it changed.
 */
final readonly class UsageController
{
    public function __construct(private UsageReader $reader)
    {
    }

    public function index(Request $request, TableUsage $tables): View
    {
        $now = Clock::seconds();

        return view('usage.usage', [
            'page' => UsagePage::of(UsageScope::of($request, $now), $this->reader, $tables, $now),
            'clusters' => Cluster::query()->orderBy('name')->get(['slug', 'name']),
        ]);
    }

    public function why(Request $request): View
    {
        return view('usage.why', [
            'page' => WhyPage::of(UsageScope::of($request, Clock::seconds()), self::by($request), $this->reader),
            'clusters' => Cluster::query()->orderBy('name')->get(['slug', 'name']),
        ]);
    }

    public function export(Request $request, string $format): StreamedResponse
    {
        $scope = UsageScope::of($request, Clock::seconds());
        $by = self::by($request);
        $bridge = UsageBridge::of($this->reader->by($by, $scope, $scope->against), $this->reader->by($by, $scope, $scope->days));

        return Export::table($format, "usage-by-{$by->value}", array_map(static fn (UsageChange $one): array => [
            $by->value => $one->key,
            'executions_before' => $one->before->executions,
            'executions' => $one->after->executions,
            "{$scope->measure->value}_before" => $one->before->amount,
            $scope->measure->value => $one->after->amount,
            'new' => $one->new,
            'gone' => $one->gone,
            'more_executions' => $one->moreExecutions,
            'more_per_execution' => $one->moreEach,
        ], $bridge->changes));
    }

    private static function by(Request $request): UsageField
    {
        $by = $request->query('by');
        $field = is_string($by) ? UsageField::tryFrom($by) : null;

        return $field ?? (is_string($request->query('team')) ? UsageField::Application : UsageField::Team);
    }
}
