<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Cost\Charts\DaysFigure;
use App\Platform\Figures\Frame;
use App\Platform\Support\Clock;
use App\Platform\Support\ReportFile;
use Dompdf\Dompdf;
use Dompdf\Options;
use Fulcrion\Core\Usage\Calendar;
use Illuminate\Support\Facades\File;

/**
 * A statement of account as one file that needs nothing else: HTML, or PDF.
 */
final readonly class AccountFile
{
    /** Colours of the marks, for a reader of PDF that knows no style of ours. */
    private const MARKS = '.grid{stroke:#DDD5C7}.tick{fill:#5A666E;font-size:11.5px;font-family:sans-serif}'
        .'.before-bar{fill:none;stroke:#B9691E;stroke-width:1.4}.after-bar{fill:#1C6E68}';

    public function __construct(private ReportFile $report)
    {
    }

    public function html(TeamAccount $account): string
    {
        return $this->report->html('cost.account-file', [
            'account' => $account,
            'figure' => $account->figure(),
            'zone' => app(Calendar::class)->zone->getName(),
        ]);
    }

    public function pdf(TeamAccount $account): string
    {
        $figure = $account->figure();
        // A picture of its own needs a name space, a size and its colours.
        $size = 'width="'.Frame::WIDTH.'" height="'.DaysFigure::HEIGHT.'"';
        $image = str_replace(
            ['<svg ', '</desc>'],
            ["<svg xmlns=\"http://www.w3.org/2000/svg\" {$size} ", '</desc><style>'.self::MARKS.'</style>'],
            $figure->svg ?? '',
        );
        $fonts = storage_path('app/pdf-fonts');
        File::ensureDirectoryExists($fonts);
        $pdf = new Dompdf(new Options([
            // It reads no file and no address: all it needs is in the page.
            'isRemoteEnabled' => false,
            'isPhpEnabled' => false,
            'isJavascriptEnabled' => false,
            'chroot' => [$fonts],
            'fontCache' => $fonts,
            'fontDir' => $fonts,
            'tempDir' => $fonts,
            'defaultFont' => 'DejaVu Sans',
            'defaultPaperSize' => 'a4',
        ]));
        $pdf->loadHtml(view('cost.account-pdf', [
            'account' => $account,
            'figure' => $figure,
            'image' => 'data:image/svg+xml;base64,'.base64_encode($image),
            'madeAt' => Clock::seconds(),
            'zone' => app(Calendar::class)->zone->getName(),
        ])->render());
        $pdf->render();

        return (string) $pdf->output();
    }

    /**
     * A name for a file.
     *
     * @param  string  $month as 2026-11
     */
    public static function name(string $team, string $month, string $ending): string
    {
        $team = trim((string) preg_replace('~[^a-z0-9]+~', '-', mb_strtolower($team)), '-');

        return 'account-'.($team === '' ? 'team' : $team)."-{$month}.{$ending}";
    }
}
