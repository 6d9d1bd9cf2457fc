<?php

declare(strict_types=1);

namespace App\Statements\Http;

use App\Ledger\Ledger;
use App\Platform\Models\User;
use App\Statements\Application\Plans;
use App\Statements\Application\StatementDetail;
use App\Statements\Application\StatementReport;
use App\Statements\Application\StatementScope;
use App\Statements\Application\StatementView;
use App\Statements\Application\TimeRail;
use App\Telemetry\Store\KnownStatements;
use Fulcrion\Core\Time\WindowText;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use stdClass;

final readonly class StatementController
{
    public function __construct(private StatementView $view, private StatementDetail $detail, private KnownStatements $known)
    {
    }

    public function show(Request $request, #[CurrentUser] User $user, string $fingerprint, TimeRail $rail, Plans $plans): View
    {
        $scope = StatementScope::of($request) ?? abort(404);
        $data = $this->view->of($fingerprint, $scope) ?? abort(404);
        $samples = $this->detail->samples($data['statement']->id, $scope);

        return view('statements.statement', [
            ...$data,
            'scope' => $scope,
            'rail' => $rail->of($scope->cluster),
            'samples' => $samples,
            'revealed' => false,
            'plans' => $plans->of($scope->cluster->id, $fingerprint, $user),
            'planKnown' => $plans->known($scope->cluster->id, $fingerprint),
        ]);
    }

    public function text(Request $request, string $fingerprint): Response
    {
        $scope = StatementScope::of($request) ?? abort(404);
        $statement = $this->known->find($fingerprint, $scope->cluster->id) ?? abort(404);

        return response($statement->text."\n", 200, [
            'Content-Type' => 'text/plain; charset=utf-8',
            'Content-Disposition' => "attachment; filename=\"{$fingerprint}.sql\"",
        ]);
    }

    public function reveal(Request $request, #[CurrentUser] User $user, string $fingerprint, Ledger $ledger): View
    {
        $scope = StatementScope::of($request) ?? abort(404);
        $statement = $this->known->find($fingerprint, $scope->cluster->id) ?? abort(404);
        $samples = $this->detail->samples($statement->id, $scope);
        $this->note($user, $ledger, 'revealed literals', $scope, $statement, count($samples['samples']));

        return view('statements.samples', ['scope' => $scope, 'statement' => $statement, 'samples' => $samples, 'revealed' => true]);
    }

    public function report(Request $request, string $fingerprint, StatementReport $report): Response
    {
        $scope = StatementScope::of($request) ?? abort(404);

        return $report->statement($scope, $this->view->of($fingerprint, $scope) ?? abort(404), []);
    }

    public function revealingReport(
        Request $request,
        #[CurrentUser] User $user,
        string $fingerprint,
        StatementReport $report,
        Ledger $ledger,
    ): Response {
        $scope = StatementScope::of($request) ?? abort(404);
        $data = $this->view->of($fingerprint, $scope) ?? abort(404);
        $samples = $this->detail->samples($data['statement']->id, $scope)['samples'];
        $this->note($user, $ledger, 'took literals away in a report', $scope, $data['statement'], count($samples));

        return $report->statement($scope, $data, $samples);
    }

    private function note(User $user, Ledger $ledger, string $act, StatementScope $scope, stdClass $statement, int $samples): void
    {
        $ledger->record($user, $act, "statement {$statement->fingerprint}", [
            'cluster' => $scope->cluster->slug,
            'window' => WindowText::format($scope->window, $scope->zone),
            'samples' => $samples,
        ]);
    }
}
