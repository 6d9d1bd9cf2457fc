<?php

declare(strict_types=1);

namespace App\Usage\Http;

use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use App\Platform\Support\Export;
use App\Telemetry\Usage\UsageScope;
use App\Telemetry\Usage\UsageSeries;
use App\Usage\Application\ForecastPage;
use App\Usage\Application\MonthForecast;
use Fulcrion\Core\Usage\Calendar;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;

/**
 * Where the month will end.
 */
final readonly class ForecastController
{
    public function __construct(private UsageSeries $series, private Calendar $calendar)
    {
    }

    public function show(Request $request): View
    {
        return view('usage.forecast', [
            'page' => $this->page($request),
            'clusters' => Cluster::query()->orderBy('name')->get(['slug', 'name']),
        ]);
    }

    public function export(Request $request, string $format): StreamedResponse
    {
        $page = $this->page($request);
        $rows = [];
        foreach (['all' => $page->all] + $page->teams as $team => $one) {
            if ($one instanceof MonthForecast) {
                [$low, $high] = $one->range(0.8) ?? [null, null];
                $rows[] = [
                    'team' => (string) $team, 'month' => gmdate('Y-m', $page->month->from), 'measure' => $page->scope->measure->value,
                    'used' => round($one->used()), 'expected' => round($one->expected()),
                    'low_80' => $low === null ? '' : round($low), 'high_80' => $high === null ? '' : round($high),
                    'model' => $one->forecast->model->value,
                ];
            }
        }

        return Export::table($format, 'forecast', $rows);
    }

    private function page(Request $request): ForecastPage
    {
        $now = Clock::seconds();

        return ForecastPage::of(UsageScope::of($request, $now), $this->series, $this->calendar, $now);
    }
}
