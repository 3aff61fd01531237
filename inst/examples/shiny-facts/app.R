# A click on a district comes near it, marks it, and puts what is known of it beside the map.
library(shiny)
library(ochre)

districts <- read_boundaries(ochre_demo("districts.geojson"))
visits <- suppressMessages(read_statistics(ochre_demo("visits.csv")))
totals <- suppressWarnings(sum_areas(visits, visits, by = district))
joined <- suppressWarnings(suppressMessages(
  join_statistics(districts, totals, by = c(code = "district"), match = "tidied")
))
rates <- rate_per(joined, visits, population)

sheet <- map_sheet(
  "Hay fever follows the wind",
  source = "Orvane Health Office, made-up figures",
  page = page_style(click = "zoom")
) |>
  shade_areas(
    rates, visits_per_1000,
    legend = "Visits per 1,000 residents", hover = "{name}: {visits_per_1000|0} per 1,000"
  )

ui <- fluidPage(
  title = "Facts of a district",
  fluidRow(
    column(8, ochre_output("map", height = "620px")),
    column(4, uiOutput("facts"), actionButton("home", "The whole map"))
  )
)

server <- function(input, output, session) {
  output$map <- render_ochre(sheet)
  chosen <- reactiveVal(NULL)
  observeEvent(input$map_clicked, chosen(input$map_clicked$row))
  observe({
    req(chosen())
    live_map("map") |>
      mark_areas(rates$code[chosen()]) |>
      look_at(rates$code[chosen()])
  })
  observeEvent(input$home, {
    chosen(NULL)
    live_map("map") |> mark_areas() |> choose_area() |> look_at()
  })
  output$facts <- renderUI({
    if (is.null(chosen())) return(p("Click on a district."))
    district <- rates[chosen(), ]
    others <- rates[rates$region == district$region & !is.na(rates$visits), ]
    tagList(
      h3(district$name),
      p(sprintf("Region %s, %.0f km\u00b2", district$region, district$area_km2)),
      tags$dl(
        tags$dt("Visits per 1,000 residents"),
        tags$dd(format(round(district$visits_per_1000, 1))),
        tags$dt("In its region"),
        tags$dd(format(round(1000 * sum(others$visits) / sum(others$population), 1))),
        tags$dt("Residents"), tags$dd(format(district$population, big.mark = ",")),
        tags$dt("of them over 64"),
        tags$dd(sprintf("%.1f %%", 100 * district$population_65_plus / district$population))
      )
    )
  })
}

shinyApp(ui, server)
