<?php

declare(strict_types=1);

namespace App\Jobs\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to JobController::elastic().
 */
final class JobElasticRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'within' => ['nullable', 'numeric', 'between:0.01,100000'],
            'step' => ['nullable', 'integer', 'between:1,10000'],
            'delay' => ['nullable', 'numeric', 'between:0,86400'],
            'hold' => ['nullable', 'numeric', 'between:1,86400'],
        ];
    }
}
