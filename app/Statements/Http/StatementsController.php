<?php

declare(strict_types=1);

namespace App\Statements\Http;

use App\Platform\Support\Clock;
use App\Platform\Support\Export;
use App\Statements\Application\Anomalies;
use App\Statements\Application\Ranking;
use App\Statements\Application\StatementReport;
use App\Statements\Application\StatementScope;
use App\Statements\Application\StatementsView;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Symfony\Component\HttpFoundation\StreamedResponse;

final readonly class StatementsController
{
    public function __construct(private StatementsView $view)
    {
    }

    public function index(Request $request): View
    {
        $scope = StatementScope::of($request);

        return $scope === null ? view('platform.no-cluster') : view('statements.statements', $this->view->of($scope, $request));
    }

    public function anomalies(Request $request, Anomalies $anomalies): View
    {
        $scope = StatementScope::of($request) ?? abort(404);

        return view('statements.anomalies', ['scope' => $scope, 'anomalies' => $anomalies->of($scope, Clock::seconds())]);
    }

    public function export(Request $request, string $format, Ranking $ranking): StreamedResponse
    {
        $scope = StatementScope::of($request) ?? abort(404);
        $page = $ranking->of($scope, StatementsView::order($request), 1, 5_000, $request->query('dir') === 'up');

        return Export::table(
            $format,
            "statements-{$scope->cluster->slug}",
            array_map(static fn ($row): array => $row->export(), $page->rows),
        );
    }

    public function report(Request $request, StatementReport $report): Response
    {
        $scope = StatementScope::of($request) ?? abort(404);

        return $report->statements($scope, $this->view->of($scope, $request));
    }
}
