<?php

declare(strict_types=1);

namespace App\Statements\Application;

use App\Platform\Support\ReportFile;
use Fulcrion\Core\Time\WindowText;
use Illuminate\Http\Response;

/**
 * A page as one HTML file that needs neither network nor script nor this application.
 */
final readonly class StatementReport
{
    public function __construct(private ReportFile $report)
    {
    }

    /**
     * @param  array<string, mixed>  $data what the Statements page shows
     */
    public function statements(StatementScope $scope, array $data): Response
    {
        return $this->file('statements.report-statements', "statements-{$scope->cluster->slug}", $scope, $data);
    }

    /**
     * @param  array<string, mixed>  $data what the page of a statement shows
     * @param  list<array<string, mixed>>  $samples with literals; empty when they are not to be told
     */
    public function statement(StatementScope $scope, array $data, array $samples): Response
    {
        return $this->file(
            'statements.report-statement',
            'statement-'.substr($data['statement']->fingerprint, 0, 8),
            $scope,
            $data + ['literals' => $samples],
        );
    }

    /**
     * @param  view-string  $view
     * @param  array<string, mixed>  $data
     */
    private function file(string $view, string $name, StatementScope $scope, array $data): Response
    {
        return $this->report->response($view, $data + [
            'scope' => $scope,
            'about' => "report · cluster {$scope->cluster->name} · window ".WindowText::format($scope->window, $scope->zone).
                " ({$scope->zone->getName()})",
        ], $name);
    }
}
