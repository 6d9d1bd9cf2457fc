<?php

declare(strict_types=1);

namespace App\Jobs\Http\Requests;

use App\Jobs\Http\JobController;
use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to JobController::again().
 */
final class RunJobAgainRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['workers' => ['nullable', 'integer', 'between:1,'.JobController::MOST_WORKERS]];
    }
}
