<?php

declare(strict_types=1);

namespace App\Usage\Http;

use App\Estate\Models\Cluster;
use App\Estate\Pricing\DailyMoney;
use App\Platform\Support\Clock;
use App\Platform\Support\Export;
use App\Telemetry\Usage\UsageField;
use App\Telemetry\Usage\UsageReader;
use App\Telemetry\Usage\UsageScope;
use App\Telemetry\Usage\UsageSeries;
use App\Usage\Application\ForecastPage;
use App\Usage\Application\ForecastWhatIf;
use Fulcrion\Core\Forecast\PeriodForecast;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Used;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;

/**
 * Where the month will end.
 */
final readonly class ForecastController
{
    private const STATEMENTS = 40;

    public function __construct(
        private UsageSeries $series,
        private UsageReader $reader,
        private Calendar $calendar,
        private DailyMoney $money,
        private ForecastWhatIf $whatIf,
    ) {
    }

    public function show(Request $request): View
    {
        $page = $this->page($request);

        return view('usage.forecast', [
            'page' => $page,
            'whatIf' => $this->whatIf->of($request, $page, $this->calendar->day(Clock::seconds())),
            'changes' => $this->whatIf->changes($page),
            'prices' => $page->currency === null ? [] : $this->money->parts($page->scope->cluster, Clock::seconds()),
            'statements' => $page->all === null ? [] : $this->statements($page),
            'clusters' => Cluster::query()->orderBy('name')->get(['slug', 'name']),
        ]);
    }

    /**
     * Those that ran most in the last week, to choose one from.
     *
     * @return array<string, string> beginning of the text by fingerprint
     */
    private function statements(ForecastPage $page): array
    {
        $used = $this->reader->by(UsageField::Statement, $page->scope, $page->scope->days);
        uasort($used, static fn (Used $a, Used $b): int => $b->amount <=> $a->amount);
        $first = array_map(strval(...), array_keys(array_slice($used, 0, self::STATEMENTS, true)));

        return array_replace(array_fill_keys($first, ''), $this->reader->texts($first));
    }

    public function export(Request $request, string $format): StreamedResponse
    {
        $page = $this->page($request);
        $rows = [];
        foreach (['all' => $page->all] + $page->teams as $team => $one) {
            if ($one instanceof PeriodForecast) {
                [$low, $high] = $one->range(0.8) ?? [null, null];
                $rows[] = [
                    'team' => (string) $team, 'month' => gmdate('Y-m', $page->month->from), 'measure' => $page->key(),
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

        $scope = UsageScope::of($request, $now);

        return $request->query('measure') === ForecastPage::COST ? ForecastPage::ofCost($scope, $this->money, $this->calendar, $now)
            : ForecastPage::of($scope, $this->series, $this->calendar, $now);
    }
}
