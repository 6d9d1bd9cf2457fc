<?php

declare(strict_types=1);

namespace App\Platform\Support;

use Illuminate\Foundation\Vite;
use Illuminate\Http\Response;

/**
 * A page as one file that needs neither network nor this application.
 */
final readonly class ReportFile
{
    public function __construct(private Vite $vite)
    {
    }

    /**
     * @param  view-string  $view
     * @param  array<string, mixed>  $data
     */
    public function html(string $view, array $data): string
    {
        return view($view, $data + ['style' => $this->vite->content('resources/scss/report.scss'), 'madeAt' => Clock::seconds()])->render();
    }

    /**
     * @param  view-string  $view
     * @param  array<string, mixed>  $data
     * @param  string  $name of the file, without its ending
     */
    public function response(string $view, array $data, string $name): Response
    {
        return response($this->html($view, $data), 200, [
            'Content-Type' => 'text/html; charset=utf-8',
            'Content-Disposition' => "attachment; filename=\"{$name}.html\"",
        ]);
    }
}
